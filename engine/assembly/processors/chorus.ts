// Up to four voices a side, a lane each; core/processors/chorus.ts says what the parameters mean.
import * as its from '../../../build/engine/parameters/chorus';
import { between, REACH } from '../interpolate';
import { ringOf } from '../math';
import { quiet } from '../quiet';
import { frames as count, oneBytes, perFrame } from '../span';

// State: 0 write position, 4 whether it has run, 8 delay and 12 depth in frames; 16 phases of the left side's voices, 32 of how the right
// side's sway against them, 48 the voices' levels; 80.. a ring a side, whose first frames stand once more behind its end.
const S_RUN: usize = 4;
const S_TIME: usize = 8;
const S_DEPTH: usize = 12;
const S_PHASES: usize = 16;
const S_DRIFTS: usize = 32;
const S_LEVELS: usize = 48;
/** Frames for which nothing has come in, at most as many as a ring has. */
const S_QUIET: usize = 64;
const S_RINGS: usize = 80;
const MIRROR = 2 * REACH;

// What sets the voices apart: 0 where each begins in its turn, 16 its rate and 32 its delay; and of the right side's voices 48 how much
// further on in their turn they are, 64 how fast they sway by half a turn to either side, and 80 how much later they are. Our own values, which share no divisor.
const apart: usize = memory.data<f32>([
  0, 0.27, 0.52, 0.77,
  1, 0.91, 1.07, 1.17,
  1, 1.17, 0.87, 1.31,
  0.37, 0.61, 0.43, 0.53,
  0.13, 0.11, 0.17, 0.07,
  0.11, -0.09, 0.13, -0.07,
], 16);

/** Frames that a delay moves by in a frame at most, by its time and by its depth; the inertia of both; as a delay's. */
const FASTEST: f32 = 0.4;
const INERTIA: f32 = 0.05;
const SLOWEST: f32 = 0.002;
/** Seconds in which a voice comes and goes. */
const COMES: f32 = 0.008;

function ringFrames(sampleRate: i32): i32 {
  return ringOf(0.08 * f64(sampleRate) + 64);
}
export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 80 + (ringFrames(sampleRate) + MIRROR) * 8;
}

// sin(2 pi p) for p in turns, by the Taylor terms of a quarter turn.
// @ts-ignore: decorator
@inline
function sine(turns: v128): v128 {
  const p = f32x4.sub(turns, f32x4.floor(f32x4.add(turns, f32x4.splat(0.5)))); // -0.5 .. 0.5
  const a = f32x4.abs(p);
  const folded = f32x4.min(a, f32x4.sub(f32x4.splat(0.5), a)); // 0 .. 0.25
  const x = f32x4.mul(folded, f32x4.splat(6.2831853));
  const x2 = f32x4.mul(x, x);
  let q = f32x4.add(f32x4.splat(-1.9841270e-4), f32x4.mul(x2, f32x4.splat(2.7557319e-6)));
  q = f32x4.add(f32x4.splat(8.3333333e-3), f32x4.mul(x2, q));
  q = f32x4.add(f32x4.splat(-1.6666667e-1), f32x4.mul(x2, q));
  q = f32x4.mul(x, f32x4.add(f32x4.splat(1), f32x4.mul(x2, q)));
  return v128.or(q, v128.and(p, i32x4.splat(<i32>0x80000000)));
}

// @ts-ignore: decorator
@inline
function put(ring: usize, place: i32, size: i32, x: f32): void {
  store<f32>(ring + (<usize>place << 2), x);
  if (place < MIRROR) store<f32>(ring + (<usize>(size + place) << 2), x);
}
// What came a time ago.
// @ts-ignore: decorator
@inline
function read(ring: usize, position: i32, mask: i32, time: f32): f32 {
  const whole = i32(ceil(time));
  return between(ring + (<usize>((position - whole - REACH + 1) & mask) << 2), <f32>whole - time);
}
// All voices of one side.
// @ts-ignore: decorator
@inline
function sideOf(ring: usize, position: i32, mask: i32, times: v128, levels: v128): f32 {
  let sum: f32 = 0;
  const a = f32x4.extract_lane(levels, 0), b = f32x4.extract_lane(levels, 1);
  const c = f32x4.extract_lane(levels, 2), d = f32x4.extract_lane(levels, 3);
  if (a != 0) sum += a * read(ring, position, mask, f32x4.extract_lane(times, 0));
  if (b != 0) sum += b * read(ring, position, mask, f32x4.extract_lane(times, 1));
  if (c != 0) sum += c * read(ring, position, mask, f32x4.extract_lane(times, 2));
  if (d != 0) sum += d * read(ring, position, mask, f32x4.extract_lane(times, 3));
  return sum;
}
// @ts-ignore: decorator
@inline
function glide(now: f32, goal: f32, inertia: f32): f32 {
  const gap: f32 = goal - now;
  if (gap == 0) return now;
  const step = max(SLOWEST, min(FASTEST, abs(gap) * inertia));
  return abs(gap) <= step ? goal : now + (gap > 0 ? step : -step);
}

/** Nothing is left in its rings: its voices turn on, so that what comes next does not begin at one place of their turn each time. */
function turnOn(current: usize, state: usize): void {
  const turn = f32x4.splat(load<f32>(current, its.rate) * <f32>count);
  const phases = f32x4.add(v128.load(state, S_PHASES), f32x4.mul(turn, v128.load(apart, 16)));
  const drifts = f32x4.add(v128.load(state, S_DRIFTS), f32x4.mul(turn, v128.load(apart, 64)));
  v128.store(state, f32x4.sub(phases, f32x4.floor(phases)), S_PHASES);
  v128.store(state, f32x4.sub(drifts, f32x4.floor(drifts)), S_DRIFTS);
  store<f32>(state, load<f32>(current, its.time), S_TIME);
  store<f32>(state, load<f32>(current, its.depth), S_DEPTH);
  const voices = f32x4.sub(f32x4.splat(load<f32>(current, its.voices)), f32x4(0, 1, 2, 3));
  v128.store(state, f32x4.min(f32x4.splat(1), f32x4.max(f32x4.splat(0), voices)), S_LEVELS);
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const size = ringFrames(sampleRate), mask = size - 1;
  const ring = state + S_RINGS, other = ring + (<usize>(size + MIRROR) << 2);
  const right = buffer + 512;
  if (quiet(buffer, channels, oneBytes)) {
    const long = load<i32>(state, S_QUIET);
    if (long >= size && load<i32>(state, S_RUN) != 0) {
      turnOn(current, state);
      return;
    }
    store<i32>(state, min(size, long + count), S_QUIET);
  } else store<i32>(state, 0, S_QUIET);
  let position = load<i32>(state);
  const one = f32x4.splat(1), zero = f32x4.splat(0), numbers = f32x4(0, 1, 2, 3);
  let rate = load<f32>(previous, its.rate), spread = load<f32>(previous, its.spread);
  const dRate = perFrame * (load<f32>(current, its.rate) - rate), dSpread = perFrame * (load<f32>(current, its.spread) - spread);
  const goal = load<f32>(current, its.time), deep = load<f32>(current, its.depth);
  const wanted = f32x4.min(one, f32x4.max(zero, f32x4.sub(f32x4.splat(load<f32>(current, its.voices)), numbers)));
  const inertia: f32 = <f32>1 / (INERTIA * f32(sampleRate));
  const comes = f32x4.splat(<f32>1 / (COMES * f32(sampleRate)));
  let time = load<f32>(state, S_TIME), depth = load<f32>(state, S_DEPTH);
  let phases = v128.load(state, S_PHASES), drifts = v128.load(state, S_DRIFTS), levels = v128.load(state, S_LEVELS);
  if (load<i32>(state, S_RUN) == 0) {
    store<i32>(state, 1, S_RUN);
    time = goal;
    depth = deep;
    phases = v128.load(apart);
    levels = wanted;
  }
  const half = f32x4.splat(0.5);
  const rates = v128.load(apart, 16), delays = v128.load(apart, 32), further = v128.load(apart, 48);
  const faster = v128.load(apart, 64), later = v128.load(apart, 80);
  const least = f32x4.splat(f32(REACH + 2)), most = f32x4.splat(f32(size - MIRROR - 2));
  for (let i = 0; i < count; i++) {
    const at = <usize>i << 2;
    rate += dRate;
    spread += dSpread;
    time = glide(time, goal, inertia);
    depth = glide(depth, deep, inertia);
    const gap = f32x4.sub(wanted, levels);
    levels = v128.bitselect(wanted, f32x4.add(levels, f32x4.mul(comes, gap)), f32x4.lt(f32x4.abs(gap), f32x4.splat(1e-5)));
    const turn = f32x4.splat(rate);
    phases = f32x4.add(phases, f32x4.mul(turn, rates));
    phases = f32x4.sub(phases, f32x4.floor(phases));
    drifts = f32x4.add(drifts, f32x4.mul(turn, faster));
    drifts = f32x4.sub(drifts, f32x4.floor(drifts));
    const place = position & mask;
    put(ring, place, size, load<f32>(buffer + at));
    const squares = f32x4.mul(levels, levels);
    const norm: f32 = <f32>1 / sqrt(max(<f32>1e-3, sum(squares)));
    const t = f32x4.splat(time), d = f32x4.splat(depth);
    const left = f32x4.min(most, f32x4.max(least, f32x4.add(f32x4.mul(t, delays), f32x4.mul(d, sine(phases)))));
    const l: f32 = norm * sideOf(ring, position, mask, left, levels);
    if (channels == 2) {
      put(other, place, size, load<f32>(right + at));
      // Without any spread the right side is as the left one.
      const s = f32x4.splat(spread);
      const turned = f32x4.add(phases, f32x4.mul(s, f32x4.add(further, f32x4.mul(half, sine(drifts)))));
      const times = f32x4.mul(t, f32x4.add(delays, f32x4.mul(s, later)));
      const delayed = f32x4.min(most, f32x4.max(least, f32x4.add(times, f32x4.mul(d, sine(turned)))));
      store<f32>(right + at, norm * sideOf(other, position, mask, delayed, levels));
    }
    store<f32>(buffer + at, l);
    position++;
  }
  store<i32>(state, position);
  store<f32>(state, time, S_TIME);
  store<f32>(state, depth, S_DEPTH);
  v128.store(state, phases, S_PHASES);
  v128.store(state, drifts, S_DRIFTS);
  v128.store(state, levels, S_LEVELS);
}

// @ts-ignore: decorator
@inline
function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}
