// Up to four voices, a lane each; core/processors/chorus.ts says what the parameters mean.
import * as its from '../../../build/engine/parameters/chorus';
import { frames as count, perFrame } from '../span';
import { ringOf } from '../math';

// State: 0 write position, 4 phase, 32.. a ring a channel.
const S_RINGS: usize = 32;

function ringFrames(sampleRate: i32): i32 {
  return ringOf(0.06 * f64(sampleRate) + 64);
}
export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 32 + ringFrames(sampleRate) * 8;
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
function take(ring: usize, mask: i32, places: v128): v128 {
  let v = v128.load32_splat(ring + (<usize>(i32x4.extract_lane(places, 0) & mask) << 2));
  v = v128.load_lane<f32>(ring + (<usize>(i32x4.extract_lane(places, 1) & mask) << 2), v, 1);
  v = v128.load_lane<f32>(ring + (<usize>(i32x4.extract_lane(places, 2) & mask) << 2), v, 2);
  return v128.load_lane<f32>(ring + (<usize>(i32x4.extract_lane(places, 3) & mask) << 2), v, 3);
}

// Four reads between frames, by a cubic through four points (Hermite).
// @ts-ignore: decorator
@inline
function read(ring: usize, mask: i32, position: i32, delay: v128): v128 {
  const whole = f32x4.floor(delay);
  const f = f32x4.sub(delay, whole);
  const at = i32x4.sub(i32x4.splat(position), i32x4.trunc_sat_f32x4_s(whole));
  const one = i32x4.splat(1);
  const a = take(ring, mask, i32x4.add(at, one)), b = take(ring, mask, at);
  const c = take(ring, mask, i32x4.sub(at, one)), d = take(ring, mask, i32x4.sub(at, i32x4.splat(2)));
  const half = f32x4.splat(0.5);
  const c1 = f32x4.mul(half, f32x4.sub(c, a));
  const c3 = f32x4.add(f32x4.mul(half, f32x4.sub(d, a)), f32x4.mul(f32x4.splat(1.5), f32x4.sub(b, c)));
  return f32x4.add(b, f32x4.mul(f, f32x4.add(c1, f32x4.mul(f, f32x4.add(curve(a, b, c, d), f32x4.mul(f, c3))))));
}
// @ts-ignore: decorator
@inline
function curve(a: v128, b: v128, c: v128, d: v128): v128 {
  // a - 2.5 b + 2 c - 0.5 d
  return f32x4.add(
    f32x4.sub(a, f32x4.mul(f32x4.splat(2.5), b)),
    f32x4.sub(f32x4.add(c, c), f32x4.mul(f32x4.splat(0.5), d)),
  );
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const frames = ringFrames(sampleRate);
  const mask = frames - 1;
  const ring = state + S_RINGS, other = ring + (<usize>frames << 2);
  const right = buffer + 512;
  let position = load<i32>(state);
  let phase = load<f32>(state, 4);
  const step: f32 = perFrame;
  let rate = load<f32>(previous, its.rate), depth = load<f32>(previous, its.depth), time = load<f32>(previous, its.time);
  const dRate = step * (load<f32>(current, its.rate) - rate), dDepth = step * (load<f32>(current, its.depth) - depth);
  const dTime = step * (load<f32>(current, its.time) - time);
  const spread = load<f32>(current, its.spread);
  // A voice joins and leaves by its level, which glides like every parameter.
  let voices = load<f32>(previous, its.voices);
  const dVoices = step * (load<f32>(current, its.voices) - voices);
  const starts = f32x4(0, 0.25, 0.5, 0.75);
  const numbers = f32x4(0, 1, 2, 3);
  const one = f32x4.splat(1), zero = f32x4.splat(0);
  const limit = f32x4.splat(f32(frames - 8));
  for (let i = 0; i < count; i++) {
    const at = <usize>i << 2;
    voices += dVoices;
    rate += dRate;
    depth += dDepth;
    time += dTime;
    phase += rate;
    phase -= floor(phase);
    const place = <usize>(position & mask) << 2;
    store<f32>(ring + place, load<f32>(buffer + at));
    if (channels == 2) store<f32>(other + place, load<f32>(right + at));
    const level = f32x4.min(one, f32x4.max(zero, f32x4.sub(f32x4.splat(voices), numbers)));
    const norm: f32 = <f32>1 / sqrt(max(<f32>1, voices));
    const turns = f32x4.add(f32x4.splat(phase), starts);
    const delay = f32x4.min(limit, f32x4.max(one, f32x4.add(f32x4.splat(time), f32x4.mul(f32x4.splat(depth), sine(turns)))));
    const l = f32x4.mul(level, read(ring, mask, position, delay));
    store<f32>(buffer + at, norm * sum(l));
    if (channels == 2) {
      const turned = f32x4.add(turns, f32x4.splat(spread));
      const delayed = f32x4.min(limit, f32x4.max(one, f32x4.add(f32x4.splat(time), f32x4.mul(f32x4.splat(depth), sine(turned)))));
      store<f32>(right + at, norm * sum(f32x4.mul(level, read(other, mask, position, delayed))));
    }
    position++;
  }
  store<i32>(state, position);
  store<f32>(state, phase, 4);
}

// @ts-ignore: decorator
@inline
function sum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}
