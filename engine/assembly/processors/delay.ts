// A delay with filtered feedback; core/processors/delay.ts says what its parameters mean and sizes the state.
import * as its from '../../../build/engine/parameters/delay';
import { between, REACH } from '../interpolate';
import { flushOne } from '../math';
import { quiet } from '../quiet';
import { frames, oneBytes, perFrame } from '../span';

// State: 0 write position, 4 time in frames, 8 whether it has run, 12 level of what comes in; 16 and 20 high-cut, 24 and 28 low-cut
// memory of both sides, 32 what ducking takes away, 40 how fast its time goes; 48.. a ring a side, whose first frames stand once more behind its end.
const S_TIME: usize = 4;
const S_RUN: usize = 8;
const S_LEVEL: usize = 12;
const S_SOFT: usize = 16;
const S_RUMBLE: usize = 24;
const S_DUCKED: usize = 32;
/** Frames for which nothing has come in or out, at most as many as a ring has. */
const S_QUIET: usize = 36;
/** Frames by which its time moves in a frame. */
const S_PACE: usize = 40;
const S_RINGS: usize = 48;
const MIRROR = 2 * REACH;

/** Frames that its time moves by in a frame at most: half as fast or one and a half times, as a tape may run. */
const FASTEST: f32 = 0.5;
/** Seconds in which it comes up to that, so that what is heard bends and has no corner. */
const GATHERS: f32 = 0.0027;
/** Seconds in which it gets there, and frames a frame at the end of the way. */
const INERTIA: f32 = 0.05;
const SLOWEST: f32 = 0.004;

function ringFrames(sampleRate: i32): i32 {
  return 8 * sampleRate + 256;
}
function ringBytes(sampleRate: i32): usize {
  return <usize>(ringFrames(sampleRate) + MIRROR) << 2;
}
export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 48 + 2 * i32(ringBytes(sampleRate));
}

// @ts-ignore: decorator
@inline
function put(ring: usize, place: i32, size: i32, x: f32): void {
  store<f32>(ring + (<usize>place << 2), x);
  if (place < MIRROR) store<f32>(ring + (<usize>(size + place) << 2), x);
}
// What came a time ago; the newest frame is not there yet.
function read(ring: usize, place: i32, size: i32, time: f32): f32 {
  const whole = i32(ceil(time));
  const share: f32 = <f32>whole - time;
  let at = place - whole;
  if (at < 0) at += size;
  if (share == 0) return load<f32>(ring + (<usize>at << 2));
  if (whole <= REACH + 1) {
    const a = load<f32>(ring + (<usize>at << 2)), b = load<f32>(ring + (<usize>(at + 1) << 2));
    return a + (b - a) * share;
  }
  at -= REACH - 1;
  if (at < 0) at += size;
  return between(ring + (<usize>at << 2), share);
}

/** What a low cut that is off has taken away comes back so slowly that it is not heard to. */
const LETS_GO: f32 = 0.9998;

// @ts-ignore: decorator
@inline
function bent(x: f32, drive: f32): f32 {
  return drive > 1e-3 ? Mathf.tanh(drive * x) / drive : x;
}

// Frames from one place on that neither it nor another passes a ring's end in.
// @ts-ignore: decorator
@inline
function straight(place: i32, from: i32, size: i32, left: i32): i32 {
  return min(left, size - max(place, from));
}

/**
 * The same where nothing moves, nothing is bent and nothing ducks: four frames at a time without filters.
 * @returns where it writes next
 */
function steady(buffer: usize, other: usize, two: bool, current: usize, state: usize, place: i32, time: i32, size: i32, ringsApart: usize): i32 {
  const feedback = load<f32>(current, its.feedback), cross = load<f32>(current, its.pingPong);
  const low = load<f32>(current, its.lowPole), high = load<f32>(current, its.highPole);
  const left = state + S_RINGS, right = left + ringsApart;
  let soft = load<f32>(state, S_SOFT), softR = load<f32>(state, S_SOFT + 4);
  let rumble = load<f32>(state, S_RUMBLE), rumbleR = load<f32>(state, S_RUMBLE + 4);
  const filters = low != 1 || high != 0 || rumble != 0 || rumbleR != 0;
  const half: f32 = 0.5;
  const f = f32x4.splat(feedback), c = f32x4.splat(cross), h = f32x4.splat(half), least = f32x4.splat(1e-16);
  for (let done = 0; done < frames; ) {
    let from = place - time;
    if (from < 0) from += size;
    const count = straight(place, from, size, frames - done);
    const into = left + (<usize>place << 2), intoR = right + (<usize>place << 2);
    const old = left + (<usize>from << 2), oldR = right + (<usize>from << 2);
    const io = buffer + (<usize>done << 2), ioR = other + (<usize>done << 2);
    const bytes = <usize>count << 2;
    let i: usize = 0;
    if (!filters)
      for (; i + 16 <= bytes; i += 16) {
        const l = v128.load(old + i), r = v128.load(oldR + i);
        const backL = f32x4.mul(f, l), backR = f32x4.mul(f, r);
        const x = v128.load(io + i), y = v128.load(ioR + i);
        const inL = f32x4.add(x, f32x4.mul(c, f32x4.sub(f32x4.mul(h, f32x4.add(x, y)), x)));
        const nextL = f32x4.add(inL, f32x4.add(backL, f32x4.mul(c, f32x4.sub(backR, backL))));
        const nextR = f32x4.add(f32x4.sub(y, f32x4.mul(c, y)), f32x4.add(backR, f32x4.mul(c, f32x4.sub(backL, backR))));
        v128.store(into + i, v128.and(nextL, f32x4.gt(f32x4.abs(nextL), least)));
        v128.store(intoR + i, v128.and(nextR, f32x4.gt(f32x4.abs(nextR), least)));
        v128.store(io + i, l);
        if (two) v128.store(ioR + i, r);
      }
    for (; i < bytes; i += 4) {
      const l = load<f32>(old + i), r = load<f32>(oldR + i);
      let backL = l, backR = r;
      if (filters) {
        soft = l + high * (soft - l);
        softR = r + high * (softR - r);
        rumble = low == 1 ? LETS_GO * rumble : soft + low * (rumble - soft);
        rumbleR = low == 1 ? LETS_GO * rumbleR : softR + low * (rumbleR - softR);
        backL = soft - rumble;
        backR = softR - rumbleR;
      }
      backL = feedback * backL;
      backR = feedback * backR;
      const x = load<f32>(io + i), y = load<f32>(ioR + i);
      store<f32>(into + i, flushOne(x + cross * (half * (x + y) - x) + (backL + cross * (backR - backL))));
      store<f32>(intoR + i, flushOne(y - cross * y + (backR + cross * (backL - backR))));
      store<f32>(io + i, l);
      if (two) store<f32>(ioR + i, r);
    }
    if (place < MIRROR) {
      const end = <usize>size << 2;
      memory.copy(left + end, left, MIRROR * 4);
      memory.copy(right + end, right, MIRROR * 4);
    }
    place += count;
    if (place == size) place = 0;
    done += count;
  }
  store<f32>(state, flushOne(filters ? soft : 0), S_SOFT);
  store<f32>(state, flushOne(filters ? softR : 0), S_SOFT + 4);
  store<f32>(state, flushOne(filters ? rumble : 0), S_RUMBLE);
  store<f32>(state, flushOne(filters ? rumbleR : 0), S_RUMBLE + 4);
  return place;
}

// Whether its numbers stand as they stood.
function stands(previous: usize, current: usize): bool {
  for (let at: usize = 0; at <= its.falls; at += 4)
    if (load<f32>(previous + at) != load<f32>(current + at)) return false;
  return true;
}

/** Counts for how long nothing has come in or out, and nothing was fed back. */
function rests(silent: bool, buffer: usize, channels: i32, state: usize, size: i32): void {
  let any: f32 = 0;
  for (let at = S_SOFT; at < S_SOFT + 16; at += 4) any += abs(load<f32>(state + at));
  const still = silent && any == 0 && quiet(buffer, channels, oneBytes);
  store<i32>(state, still ? min(size, load<i32>(state, S_QUIET) + frames) : 0, S_QUIET);
}

/** Puts the repeats in place of the signal. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const size = ringFrames(sampleRate);
  const left = state + S_RINGS, right = left + ringBytes(sampleRate);
  const other = channels == 2 ? buffer + 512 : buffer;
  let place = load<i32>(state);
  let time = load<f32>(state, S_TIME);
  if (load<i32>(state, S_RUN) == 0) {
    store<i32>(state, 1, S_RUN);
    time = floor(load<f32>(current, its.frames) + <f32>0.5);
  }
  const silent = quiet(buffer, channels, oneBytes);
  if (silent && load<i32>(state, S_QUIET) >= size && load<f32>(state, S_LEVEL) == 0 && load<f32>(state, S_DUCKED) == 0) {
    // Nothing is left in its rings; it wakes with the time that it is asked for then.
    store<i32>(state, 0, S_RUN);
    return;
  }
  if (
    load<f32>(current, its.drive) == 0 && load<f32>(current, its.duck) == 0 && load<f32>(state, S_DUCKED) == 0 && time == floor(load<f32>(current, its.frames) + <f32>0.5) &&
    stands(previous, current)
  ) {
    store<f32>(state, time, S_TIME);
    store<f32>(state, 0, S_LEVEL);
    store<i32>(state, steady(buffer, other, channels == 2, current, state, place, i32(time), size, ringBytes(sampleRate)));
    rests(silent, buffer, channels, state, size);
    return;
  }
  let level = load<f32>(state, S_LEVEL);
  let soft = load<f32>(state, S_SOFT), softR = load<f32>(state, S_SOFT + 4);
  let rumble = load<f32>(state, S_RUMBLE), rumbleR = load<f32>(state, S_RUMBLE + 4);
  const inertia: f32 = <f32>1 / (INERTIA * f32(sampleRate)), gathers: f32 = FASTEST / (GATHERS * f32(sampleRate));
  let pace = load<f32>(state, S_PACE);
  const rises = load<f32>(targets, its.rises), falls = load<f32>(targets, its.falls);
  let wanted = load<f32>(previous, its.frames), feedback = load<f32>(previous, its.feedback), cross = load<f32>(previous, its.pingPong);
  let low = load<f32>(previous, its.lowPole), high = load<f32>(previous, its.highPole);
  let drive = load<f32>(previous, its.drive), duck = load<f32>(previous, its.duck);
  const dWanted = perFrame * (load<f32>(current, its.frames) - wanted), dFeedback = perFrame * (load<f32>(current, its.feedback) - feedback);
  const dCross = perFrame * (load<f32>(current, its.pingPong) - cross);
  const dLow = perFrame * (load<f32>(current, its.lowPole) - low), dHigh = perFrame * (load<f32>(current, its.highPole) - high);
  const dDrive = perFrame * (load<f32>(current, its.drive) - drive), dDuck = perFrame * (load<f32>(current, its.duck) - duck);
  // What ducks goes smoothly, within a millisecond.
  const rounds: f32 = <f32>1 / max(<f32>1, <f32>0.001 * f32(sampleRate));
  let ducked = load<f32>(state, S_DUCKED);
  const half: f32 = 0.5;
  for (let i = 0; i < frames; i++) {
    wanted += dWanted;
    feedback += dFeedback;
    cross += dCross;
    low += dLow;
    high += dHigh;
    drive += dDrive;
    duck += dDuck;
    // A whole number of frames where it comes to rest.
    const goal = dWanted == 0 ? floor(wanted + <f32>0.5) : wanted;
    const gap: f32 = goal - time;
    if (gap != 0) {
      const step = max(SLOWEST, min(FASTEST, abs(gap) * inertia));
      const wish: f32 = gap > 0 ? step : -step;
      pace += max(-gathers, min(gathers, wish - pace));
      const there = pace * gap > 0 && abs(gap) <= abs(pace);
      time = there ? goal : time + pace;
      if (there) pace = 0;
    } else pace = 0;
    const l = read(left, place, size, time), r = read(right, place, size, time);
    // What is fed back, through a high cut and a low cut of one pole each; poles of 0 and 1 pass all.
    soft = l + high * (soft - l);
    softR = r + high * (softR - r);
    rumble = low == 1 ? LETS_GO * rumble : soft + low * (rumble - soft);
    rumbleR = low == 1 ? LETS_GO * rumbleR : softR + low * (rumbleR - softR);
    let backL: f32 = feedback * bent(soft - rumble, drive), backR: f32 = feedback * bent(softR - rumbleR, drive);
    const at = <usize>i << 2;
    const x = load<f32>(buffer + at), y = load<f32>(other + at);
    // In ping-pong both sides go in on the left, and each repeat to the other side.
    const turned: f32 = backL + cross * (backR - backL);
    backR = backR + cross * (backL - backR);
    backL = turned;
    put(left, place, size, flushOne(x + cross * (half * (x + y) - x) + backL));
    put(right, place, size, flushOne(y - cross * y + backR));
    place++;
    if (place == size) place = 0;
    const loud = max(abs(x), abs(y));
    level = loud + (loud > level ? rises : falls) * (level - loud);
    let takes: f32 = 0;
    if (duck > 0 && level > 0.01) {
      // From -40 dB on, all of it at -20 dB.
      const share = min(<f32>1, Mathf.log10(level * 100));
      takes = <f32>1 - Mathf.pow(10, -duck * share * <f32>0.05);
    }
    ducked += rounds * (takes - ducked);
    const gain: f32 = <f32>1 - ducked;
    store<f32>(buffer + at, gain * l);
    if (channels == 2) store<f32>(other + at, gain * r);
  }
  store<i32>(state, place);
  store<f32>(state, time, S_TIME);
  store<f32>(state, pace, S_PACE);
  store<f32>(state, flushOne(level), S_LEVEL);
  store<f32>(state, flushOne(ducked), S_DUCKED);
  store<f32>(state, flushOne(soft), S_SOFT);
  store<f32>(state, flushOne(softR), S_SOFT + 4);
  store<f32>(state, flushOne(rumble), S_RUMBLE);
  store<f32>(state, flushOne(rumbleR), S_RUMBLE + 4);
  rests(silent, buffer, channels, state, size);
}
