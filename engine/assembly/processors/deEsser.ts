// A compressor of the band above a frequency; core/processors/deEsser.ts says how it is split off and what its parameters mean. Four frames
// to a vector.
import * as its from '../../../build/engine/parameters/deEsser';
import { bow, flushOne, gainOf, nearer, powerDecibels } from '../math';
import { quiet } from '../quiet';
import { frames, oneBytes, perFrame } from '../span';
import { kaiser, lowPass } from '../window';

// State: 0 reduction and 4 level heard in the last block; 16 frequency that the taps are for, 20 frames in which they have still to cross over from those before; 28 for how long nothing has come in; 32 how far everything is turned down, 44 how far the band is alone, three stages each; then the taps, and those before; then for each channel 16
// bytes (held reduction, smoothed), and its past and that of what is smoothed for wide rates.
const S_FREQUENCY: usize = 16;
const S_LEFT: usize = 20;
const S_ALL: usize = 32;
const S_ALONE: usize = 44;
/** Frames for which nothing has come in, at most as many as are kept. */
const S_QUIET: usize = 28;
const S_TAPS: usize = 64;
/** Taps of the split, and frames of 48 kHz by which it is late. */
const TAPS = 289;
const REACH = 144;
const TAPS_BYTES: usize = 1168;
const BETA = 4.5513; // 0.5842 (A - 21)^0.4 + 0.07886 (A - 21) at A = 50 dB
/** Width of its slope, as a share of the rate: (A - 8) / (14.36 (taps - 1)). */
const SLOPE = 0.010155;
/** How far images reach that a stretched filter leaves, and their filter: 60 dB. */
const IMAGE_BETA = 5.6533;
const IMAGE_CORNER = 0.5;

const window: usize = memory.data(1168, 16);
const smoother: usize = memory.data(400, 16);
let ready: bool = false;
let smoothFor = 0;

/** Of wide rates the split is made at every second or fourth frame. */
function stretchOf(sampleRate: i32): i32 {
  return max(1, i32(Math.round(f64(sampleRate) / 48000)));
}
function smoothTaps(stretch: i32): i32 {
  return stretch == 1 ? 1 : 12 * stretch + 1;
}
// Bytes of a channel's past: of the signal, and of what is smoothed; with room for a block.
function pastBytes(stretch: i32): usize {
  return <usize>((2 * REACH * stretch + smoothTaps(stretch) + 128 + 15) & ~3) << 2;
}
function channelBytes(stretch: i32): usize {
  return 16 + 2 * pastBytes(stretch);
}
export const FINEST = 4;
export function bytes(sampleRate: i32): i32 {
  return i32(S_TAPS + 2 * TAPS_BYTES + 2 * channelBytes(stretchOf(sampleRate)));
}

// The low-pass whose complement is the band: half of its slope below the frequency.
function design(to: usize, frequency: f32, stretch: i32, sampleRate: i32): void {
  if (!ready) {
    ready = true;
    for (let k = 0; k < TAPS; k++) store<f32>(window + (<usize>k << 2), f32(kaiser(f64(k - REACH) / f64(REACH + 1), BETA)));
  }
  const corner = f64(frequency) * f64(stretch) / f64(sampleRate) - SLOPE / 2;
  // sin(2 pi corner t) by turning a vector on.
  const c = Math.cos(2 * Math.PI * corner), s = Math.sin(2 * Math.PI * corner);
  let re: f64 = 1, im: f64 = 0, sum = 2 * corner * f64(load<f32>(window, 144 * 4));
  store<f32>(to, f32(2 * corner) * load<f32>(window, 144 * 4), 144 * 4);
  for (let t = 1; t <= REACH; t++) {
    const turned = re * c - im * s;
    im = re * s + im * c;
    re = turned;
    const tap = im / (Math.PI * f64(t)) * f64(load<f32>(window + (<usize>(REACH + t) << 2)));
    store<f32>(to + (<usize>(REACH + t) << 2), f32(tap));
    store<f32>(to + (<usize>(REACH - t) << 2), f32(tap));
    sum += 2 * tap;
  }
  const even = f32(1 / sum);
  for (let k: usize = 0; k < <usize>TAPS; k++) store<f32>(to + (k << 2), load<f32>(to + (k << 2)) * even);
}
function designSmoother(stretch: i32): void {
  if (smoothFor == stretch) return;
  smoothFor = stretch;
  lowPass(smoother, smoothTaps(stretch), IMAGE_CORNER / f64(stretch), IMAGE_BETA);
}

// Four frames of a filter whose taps lie `step` frames apart. @param newest where the first of them stands
// @ts-ignore: decorator
@inline
function filtered(newest: usize, taps: usize, count: i32, step: usize): v128 {
  let a = f32x4.splat(0), b = a;
  let at = newest;
  let k = 0;
  for (; k + 1 < count; k += 2) {
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(taps), v128.load(at)));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(taps, 4), v128.load(at - step)));
    taps += 8;
    at -= step + step;
  }
  if (k < count) a = f32x4.add(a, f32x4.mul(v128.load32_splat(taps), v128.load(at)));
  return f32x4.add(a, b);
}

const bands: usize = memory.data(1024, 16);
const lates: usize = memory.data(1024, 16);

/** Frames that are left until the taps have crossed over, and how many that takes. */
let left: i32 = 0;
let fade: f32 = 1;

// Splits a channel's frames into `bands` and, as late, all of them in `lates`.
function split(buffer: usize, own: usize, taps: usize, stretch: i32, to: usize): void {
  const past = own + 16, smooth = past + pastBytes(stretch);
  const long = <usize>(2 * REACH * stretch + smoothTaps(stretch)) << 2;
  memory.copy(past + long, buffer, oneBytes);
  const first = past + long;
  let low = first;
  if (stretch > 1) {
    low = smooth + long;
    for (let i: usize = 0; i < oneBytes; i += 16)
      v128.store(low + i, filtered(first + i, smoother, smoothTaps(stretch), 4));
  }
  const late = <usize>(REACH * stretch + (smoothTaps(stretch) - 1) / 2) << 2;
  for (let i: usize = 0; i < oneBytes; i += 16) {
    const x = v128.load(first + i - late);
    v128.store(lates + to + i, x);
    let below = filtered(low + i, taps, TAPS, <usize>stretch << 2);
    const until = left - i32(i >> 2);
    if (until > 0) {
      const before = filtered(low + i, taps + TAPS_BYTES, TAPS, <usize>stretch << 2);
      const still = f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(<f32>until), f32x4(1, 2, 3, 4)));
      below = f32x4.add(below, f32x4.mul(bow(f32x4.mul(still, f32x4.splat(<f32>1 / fade))), f32x4.sub(before, below)));
    }
    v128.store(bands + to + i, f32x4.sub(x, below));
  }
  memory.copy(past, past + oneBytes, long);
  if (stretch > 1) memory.copy(smooth, smooth + oneBytes, long);
}

const downs: usize = memory.data(1024, 16);

/** Whether nothing is turned down any more. */
function letGo(owns: usize, channels: i32, each: usize): bool {
  for (let c = 0; c < channels; c++) {
    const own = owns + <usize>c * each;
    if (load<f32>(own) != 0 || load<f32>(own, 4) != 0) return false;
  }
  return true;
}

/** It is in its mode at once. */
function listens(state: usize, current: usize): void {
  for (let at: usize = 0; at < 12; at += 4) {
    store<f32>(state + at, load<f32>(current, its.everything), S_ALL);
    store<f32>(state + at, load<f32>(current, its.listen), S_ALONE);
  }
}
// Where a mode's stages stood: the second channel goes the way that the first has gone.
const stood: usize = memory.data(24, 16);

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const stretch = stretchOf(sampleRate), each = channelBytes(stretch);
  const frequency = load<f32>(current, its.frequency);
  const taps = state + S_TAPS, owns = taps + 2 * TAPS_BYTES;
  fade = load<f32>(current, its.fade);
  left = load<i32>(state, S_LEFT);
  if (left == 0 && load<f32>(state, S_FREQUENCY) != frequency) {
    // The first block begins where its mode is. Later the band crosses over from what it was: on the way between two frequencies what is
    // left of lower tones would swing with every sidelobe.
    if (load<f32>(state, S_FREQUENCY) == 0) listens(state, current);
    else {
      memory.copy(taps + TAPS_BYTES, taps, TAPS_BYTES);
      left = i32(fade);
    }
    store<f32>(state, frequency, S_FREQUENCY);
    design(taps, frequency, stretch, sampleRate);
  }
  if (quiet(buffer, channels, oneBytes)) {
    const long = load<i32>(state, S_QUIET), kept = i32(pastBytes(stretch) >> 2);
    if (long >= kept && letGo(owns, channels, each)) {
      // Nothing is left of what came; how it listens goes on as it is asked to.
      listens(state, current);
      store<i32>(state, 0, S_LEFT);
      store<f32>(state, 0);
      store<f32>(state, -160, 4);
      return;
    }
    store<i32>(state, min(kept, long + frames), S_QUIET);
  } else store<i32>(state, 0, S_QUIET);
  if (stretch > 1) designSmoother(stretch);
  const threshold = f32x4.splat(load<f32>(current, its.threshold)), slope = f32x4.splat(load<f32>(current, its.slope));
  const range = f32x4.splat(load<f32>(current, its.range)), link = f32x4.splat(load<f32>(current, its.link));
  const attack = load<f32>(current, its.attack), release = load<f32>(current, its.release);
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  let most = f32x4.splat(-160);
  for (let c = 0; c < channels; c++) split(buffer + <usize>c * 512, owns + <usize>c * each, taps, stretch, <usize>c << 9);
  store<i32>(state, max(0, left - frames), S_LEFT);
  // What each frame asks for.
  for (let i: usize = 0; i < oneBytes; i += 16) {
    const x = v128.load(bands + i), y = channels == 2 ? v128.load(bands + i, 512) : x;
    let l = powerDecibels(f32x4.mul(x, x)), r = powerDecibels(f32x4.mul(y, y));
    const top = f32x4.pmax(l, r);
    most = f32x4.pmax(most, top);
    l = f32x4.add(l, f32x4.mul(link, f32x4.sub(top, l)));
    r = f32x4.add(r, f32x4.mul(link, f32x4.sub(top, r)));
    v128.store(downs + i, f32x4.pmin(range, f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(l, threshold)))));
    v128.store(downs + i, f32x4.pmin(range, f32x4.mul(slope, f32x4.pmax(zero, f32x4.sub(r, threshold)))), 512);
  }
  // The mode goes over smoothly, within a few milliseconds, four frames at a time.
  const goes: f32 = <f32>4 / max(<f32>8, <f32>0.001 * f32(sampleRate));
  memory.copy(stood, state + S_ALL, 24);
  const everything = load<f32>(current, its.everything), listen = load<f32>(current, its.listen);
  const quarters = f32x4(0.25, 0.5, 0.75, 1);
  let highest: f32 = 0;
  for (let c = 0; c < channels; c++) {
    const own = owns + <usize>c * each, at = <usize>c << 9;
    let held = load<f32>(own), smooth = load<f32>(own, 4), sum: f32 = 0;
    for (let i: usize = 0; i < oneBytes; i += 4) {
      const down = load<f32>(downs + at + i);
      held = max(down, down + release * (held - down));
      smooth = held + attack * (smooth - held);
      sum += smooth;
      store<f32>(downs + at + i, smooth);
    }
    store<f32>(own, flushOne(held));
    store<f32>(own, flushOne(smooth), 4);
    highest = max(highest, sum * perFrame);
    memory.copy(state + S_ALL, stood, 24);
    let all2 = load<f32>(state + 8, S_ALL), alone2 = load<f32>(state + 8, S_ALONE);
    for (let i: usize = 0; i < oneBytes; i += 16) {
      const all1 = nearer(state + S_ALL, everything, goes, 1e-6), alone1 = nearer(state + S_ALONE, listen, goes, 1e-6);
      const dAll: f32 = all1 - all2, dAlone: f32 = alone1 - alone2;
      const x = v128.load(lates + at + i), band = v128.load(bands + at + i);
      const away = f32x4.sub(one, gainOf(f32x4.neg(v128.load(downs + at + i))));
      const all = f32x4.add(f32x4.splat(all2), f32x4.mul(quarters, f32x4.splat(dAll)));
      const alone = f32x4.add(f32x4.splat(alone2), f32x4.mul(quarters, f32x4.splat(dAlone)));
      all2 = all1;
      alone2 = alone1;
      const part = f32x4.add(band, f32x4.mul(all, f32x4.sub(x, band)));
      const y = f32x4.sub(x, f32x4.mul(away, part));
      v128.store(buffer + <usize>c * 512 + i, f32x4.add(y, f32x4.mul(alone, f32x4.sub(band, y))));
    }
  }
  store<f32>(state, highest);
  // The highest of all four frames of a vector.
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 2, 3, 0, 1));
  most = f32x4.pmax(most, v128.shuffle<f32>(most, most, 1, 0, 3, 2));
  store<f32>(state, f32x4.extract_lane(most, 0), 4);
}
