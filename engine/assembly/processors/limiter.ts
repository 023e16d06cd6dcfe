// A look-ahead limiter by true peak; core/processors/limiter.ts says how it works and what its parameters mean.
import * as its from '../../../build/engine/parameters/limiter';
import { flushOne, ringOf } from '../math';
import { quiet } from '../quiet';
import { frames as count, oneBytes, perFrame } from '../span';
import { LOW_TAPS, REACH, settle, TAPS, truePeak } from '../truePeak';

// State: 0 reduction and 4 level of the last block; 16 position, 20 window; then, for each channel, its numbers and ten rings: what comes
// in; and of both stages the signal, what is turned down, and a queue's values and places; then the means of the first; at last a ring of ceilings. Behind the end of a ring of signals its beginning
// stands once more.
const S_POSITION: usize = 16;
const S_WINDOW: usize = 20;
/** Frames for which nothing has come in, at most as many as a ring has; one more where it sleeps. */
const S_QUIET: usize = 24;
const S_CHANNELS: usize = 32;
// Of a channel: 0 turned down by the fast and 4 by the slow release, 8, 12 and 56 the highest of this stretch and the two before, 16 frames
// left of this, 20 how far it is settled; of each stage 24 + 16 n: sum (f64), head and tail of the queue; 64 sum of the first stage's means (f64).
const C_FAST: usize = 0;
const C_SLOW: usize = 4;
const C_TOP: usize = 8;
const C_UNTIL: usize = 16;
const C_BEFORE: usize = 56;
const C_SETTLED: usize = 20;
const C_STAGES: usize = 24;
const STAGE: usize = 16;
const C_SECOND: usize = 64;
const C_RINGS: usize = 80;
const MIRROR: usize = 144 * 4;
/** Frames by which what is settled is late. */
const LOW_REACH = 68;
/** It is settled where it may come near the ceiling: a signal of 1 can stand as high as this between its samples. */
const BETWEEN: f32 = 2.2;
/** Share of the way that it goes there in a frame. */
const SETTLES: f32 = 0.05;

/** Frames by which a gain is reached before its peak, and kept after it: what a filter hears of a peak lies around it. */
const GUARD = 4;
/** Seconds of the second stage's window. */
const SECOND = 0.0005;

function secondWindow(sampleRate: i32): i32 {
  return i32(Math.round(SECOND * f64(sampleRate)));
}
function ringFrames(sampleRate: i32): i32 {
  return ringOf(0.01 * f64(sampleRate) + 192);
}
function channelBytes(ring: usize): usize {
  return C_RINGS + 2 * (ring * 4 + MIRROR) + 2 * ring + MIRROR;
}

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return i32(S_CHANNELS + 2 * channelBytes(<usize>ringFrames(sampleRate) << 2)) + 4 * ringFrames(sampleRate);
}

// Puts a value into a ring whose first values stand once more behind its end.
// @ts-ignore: decorator
@inline
function put(ring: usize, place: usize, size: usize, x: f32): void {
  store<f32>(ring + place, x);
  if (place < MIRROR) store<f32>(ring + size + place, x);
}

let size: usize = 0;
let mask: i32 = 0;

// @ts-ignore: decorator
@inline
function placeOf(position: i32): usize {
  return <usize>(position & mask) << 2;
}
// Rings of a channel's stage: signal, what is averaged, and the queue's values and places.
// @ts-ignore: decorator
@inline
function ringsOf(own: usize, stage: usize): usize {
  return own + C_RINGS + stage * (size * 4 + MIRROR);
}

// The highest of the last `window` values, by a queue whose values fall from head to tail.
function highestOf(own: usize, stage: usize, position: i32, window: i32, value: f32): f32 {
  const heads = own + C_STAGES + stage * STAGE + 8;
  const values = ringsOf(own, stage) + size * 2 + MIRROR, places = values + size;
  let head = load<i32>(heads), tail = load<i32>(heads, 4);
  while (tail != head && load<f32>(values + placeOf(tail - 1)) <= value) tail--;
  store<f32>(values + placeOf(tail), value);
  store<i32>(places + placeOf(tail), position);
  tail++;
  while (position - load<i32>(places + placeOf(head)) >= window) head++;
  store<i32>(heads, head);
  store<i32>(heads, tail, 4);
  return load<f32>(values + placeOf(head));
}
// The mean of the last `window` values.
function meanOf(own: usize, stage: usize, position: i32, window: i32, value: f32): f32 {
  return mean(ringsOf(own, stage) + size + MIRROR, own + C_STAGES + stage * STAGE, position, window, value);
}
function mean(ring: usize, at: usize, position: i32, window: i32, value: f32): f32 {
  const sum = load<f64>(at) + f64(value) - f64(load<f32>(ring + placeOf(position - window)));
  store<f64>(at, sum);
  store<f32>(ring + placeOf(position), value);
  return f32(max(<f64>0, sum) / f64(window));
}
// What is too much of a peak, as a share of it.
// @ts-ignore: decorator
@inline
function excess(peak: f32, ceiling: f32): f32 {
  return peak > ceiling ? <f32>1 - ceiling / peak : 0;
}

// Takes a frame in. @returns the one that lies `LOW_REACH` back, without what lies above 0.48 of the sample rate where it is loud
function settled(own: usize, place: usize, position: i32, x: f32, ceiling: f32): f32 {
  const ring = ringsOf(own, 2);
  put(ring, place, size, x);
  let share = load<f32>(own, C_SETTLED);
  const near: f32 = abs(x) * BETWEEN > ceiling ? 1 : 0;
  // It comes at once where it is near, and goes within half a second.
  share = near > share ? share + (near - share) * SETTLES : share * <f32>0.99995;
  share = share < 1e-4 ? 0 : share;
  store<f32>(own, share, C_SETTLED);
  const y = load<f32>(ring + placeOf(position - LOW_REACH));
  return share == 0 ? y : y + (settle(ring + placeOf(position - i32(LOW_TAPS) + 1)) - y) * share;
}

/** Has all ceilings that were be one. */
function fill(ceilings: usize, ceiling: f32): void {
  for (let at: usize = 0; at < size; at += 4) store<f32>(ceilings + at, ceiling);
}

/** A share that nobody hears, 0.00001 dB. */
const LET_GO: f32 = 1e-6;
/** Whether nothing is turned down any more. */
function letGo(state: usize, channels: i32, each: usize): bool {
  for (let c = 0; c < channels; c++) {
    const own = state + S_CHANNELS + <usize>c * each;
    if (load<f32>(own, C_FAST) > LET_GO || load<f32>(own, C_SLOW) > LET_GO || load<f32>(own, C_SETTLED) != 0) return false;
  }
  return true;
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const frames = ringFrames(sampleRate);
  mask = frames - 1;
  size = <usize>frames << 2;
  const window = i32(load<f32>(targets, its.window)), second = secondWindow(sampleRate);
  const release = load<f32>(current, its.release), link = load<f32>(current, its.link);
  const rises = load<f32>(targets, its.rises), falls = load<f32>(targets, its.falls);
  const stretch = i32(load<f32>(targets, its.stretch));
  const ceiling0 = load<f32>(previous, its.ceiling), ceiling1 = load<f32>(current, its.ceiling);
  const gain0 = load<f32>(previous, its.gain), gain1 = load<f32>(current, its.gain);
  // A mean of means leads there without a corner, over the window in all.
  const half = (window + 1) >> 1;
  const late = window + i32(REACH) + GUARD, later = second + i32(REACH) + GUARD;
  const each = channelBytes(size), ceilings = state + S_CHANNELS + 2 * each;
  if (load<i32>(state, S_WINDOW) != window) {
    memory.fill(state, 0, bytes(sampleRate));
    store<i32>(state, window, S_WINDOW);
    fill(ceilings, ceiling0);
  }
  if (quiet(buffer, channels, oneBytes)) {
    const long = load<i32>(state, S_QUIET);
    if (long >= frames && letGo(state, channels, each)) {
      // Nothing is left in it: it wakes as it was when new.
      if (long == frames) {
        memory.fill(state + S_CHANNELS, 0, <usize>channels * each);
        fill(ceilings, ceiling1);
        store<i32>(state, 0, S_POSITION);
        store<f32>(state, 0);
        store<f32>(state, -160, 4);
        store<i32>(state, frames + 1, S_QUIET);
      }
      return;
    }
    store<i32>(state, min(frames, long + count), S_QUIET);
  } else store<i32>(state, 0, S_QUIET);
  let position = load<i32>(state, S_POSITION);
  let most: f32 = 1e-8, least: f32 = 1;
  for (let i = 0; i < count; i++) {
    const at = <usize>i << 2;
    const t: f32 = f32(i + 1) * perFrame;
    const drive: f32 = gain0 + (gain1 - gain0) * t;
    const place = placeOf(position);
    store<f32>(ceilings + place, ceiling0 + (ceiling1 - ceiling0) * t);
    // Each stage hears what came in under the ceiling of that time.
    const ceiling = load<f32>(ceilings + placeOf(position - LOW_REACH - i32(REACH)));
    const under = load<f32>(ceilings + placeOf(position - LOW_REACH - i32(REACH) - late));
    let top: f32 = 0, peak0: f32 = 0, peak1: f32 = 0;
    for (let c = 0; c < channels; c++) {
      const own = state + S_CHANNELS + <usize>c * each;
      const signal = ringsOf(own, 0);
      put(signal, place, size, settled(own, place, position, load<f32>(buffer + <usize>c * 512 + at) * drive, ceiling));
      const peak = truePeak(signal + placeOf(position - i32(TAPS) + 1), ceiling);
      if (c == 0) peak0 = peak;
      else peak1 = peak;
      top = max(top, peak);
    }
    most = max(most, top);
    let next0: f32 = 0, next1: f32 = 0;
    for (let c = 0; c < channels; c++) {
      const own = state + S_CHANNELS + <usize>c * each;
      let peak = c == 0 ? peak0 : peak1;
      peak = peak + (top - peak) * link;
      const over = excess(peak, ceiling);
      const wanted = highestOf(own, 0, position, window + 2 * GUARD + 1, over);
      // The fast release falls from every peak; the slow one follows what is turned down in stretch after stretch.
      const was = load<f32>(own, C_FAST);
      const fast: f32 = wanted > was ? wanted : wanted + (was - wanted) * release;
      store<f32>(own, flushOne(fast), C_FAST);
      let until = load<i32>(own, C_UNTIL) - 1;
      let high = max(load<f32>(own, C_TOP), over);
      if (until <= 0) {
        until = stretch;
        store<f32>(own, load<f32>(own, C_TOP + 4), C_BEFORE);
        store<f32>(own, high, C_TOP + 4);
        high = over;
      }
      store<i32>(own, until, C_UNTIL);
      store<f32>(own, high, C_TOP);
      const lasting = min(load<f32>(own, C_BEFORE), load<f32>(own, C_TOP + 4));
      let slow = load<f32>(own, C_SLOW);
      slow = lasting + (slow - lasting) * (lasting > slow ? rises : falls);
      store<f32>(own, flushOne(slow), C_SLOW);
      const down = mean(ringsOf(own, 2) + size + MIRROR, own + C_SECOND, position, window + 1 - half, meanOf(own, 0, position, half, max(fast, slow)));
      least = min(least, <f32>1 - down);
      const signal = ringsOf(own, 1);
      put(signal, place, size, load<f32>(ringsOf(own, 0) + placeOf(position - late)) * (<f32>1 - down));
      const left = truePeak(signal + placeOf(position - i32(TAPS) + 1), under);
      if (c == 0) next0 = left;
      else next1 = left;
    }
    // A gain that moves leaves a little over; the second stage takes that.
    const after = max(next0, next1);
    for (let c = 0; c < channels; c++) {
      const own = state + S_CHANNELS + <usize>c * each;
      let peak = c == 0 ? next0 : next1;
      peak = peak + (after - peak) * link;
      const wanted = highestOf(own, 1, position, second + 2 * GUARD + 1, excess(peak, under));
      const down = meanOf(own, 1, position, second, wanted);
      const y = load<f32>(ringsOf(own, 1) + placeOf(position - later)) * (<f32>1 - down);
      store<f32>(buffer + <usize>c * 512 + at, flushOne(y));
    }
    position++;
  }
  store<i32>(state, position, S_POSITION);
  store<f32>(state, f32(-20 * Math.log10(max(f64(least), 1e-8))));
  store<f32>(state, f32(20 * Math.log10(f64(most))), 4);
}
