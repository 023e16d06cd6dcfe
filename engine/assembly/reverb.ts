// A feedback delay network of eight lines. Every line is longer than four frames, so four are computed at once: the lines and
// the diffusers four frames to a vector, the absorbent filters, which go from frame to frame, four lines to a vector. The
// formulas of its gains and poles stand in core/processors/reverb.ts, which also sizes the state; a test holds the two
// together.
import { BLOCK } from './layout';
import { ringOf } from './math';

function ringFrames(sampleRate: i32): i32 {
  return ringOf(Math.ceil(2797.0 * 2.0 * 1.45 * f64(sampleRate) / 48000.0) + 4);
}
function preDelayFrames(sampleRate: i32): i32 {
  return ringOf(Math.ceil(0.4 * f64(sampleRate)) + 4);
}
function diffuserFrames(sampleRate: i32): i32 {
  return ringOf(Math.ceil(353.0 * f64(sampleRate) / 48000.0) + 4);
}

// State: 0 write position, 4 pre-delay in frames, 8 whether it has run, 16 lengths of the lines (8 x i32), 48 lengths before
// the last change, 80 low-pass memory (2 vectors), 112 rings: 8 lines, 2 pre-delays, 8 diffusers, each with its first
// four frames once more behind its last.
const S_POSITION: usize = 0;
const S_PRE: usize = 4;
const S_RUN: usize = 8;
const S_LENGTHS: usize = 16;
const S_OLD: usize = 48;
const S_MEMORY: usize = 80;
const S_RINGS: usize = 112;

export function reverbBytes(sampleRate: i32): i32 {
  return 112 + 4 * (
    8 * (ringFrames(sampleRate) + 4) + 2 * (preDelayFrames(sampleRate) + 4) + 8 * (diffuserFrames(sampleRate) + 4)
  );
}

// Constants stand in memory, four times each: compilers of the host build a constant vector anew at every use.
// 0 the least that is told from silence, 16 the diffusers' gain, 32 1/sqrt(8), 48 level, 64 .. 128 of the reflections.
const K: usize = memory.data<f32>([
  1e-18, 1e-18, 1e-18, 1e-18,
  0.6, 0.6, 0.6, 0.6,
  0.35355339059327373, 0.35355339059327373, 0.35355339059327373, 0.35355339059327373,
  0.3, 0.3, 0.3, 0.3,
  0.5, 0.5, 0.5, 0.5,
  0.4, 0.4, 0.4, 0.4,
  0.33, 0.33, 0.33, 0.33,
  0.26, 0.26, 0.26, 0.26,
  0.2, 0.2, 0.2, 0.2,
], 16);

// Rounding the smallest values to zero keeps a dying tail out of denormal numbers, which cost a hundred times as much.
// @ts-ignore: decorator
@inline
function flush(v: v128): v128 {
  return v128.and(v, f32x4.gt(f32x4.abs(v), v128.load(K)));
}

// Four frames of a ring, from `at` on.
// @ts-ignore: decorator
@inline
function take(ring: usize, at: i32, mask: i32): v128 {
  return v128.load(ring + (<usize>(at & mask) << 2));
}
// Puts four frames in; `at` counts in fours.
// @ts-ignore: decorator
@inline
function put(ring: usize, at: i32, mask: i32, v: v128): void {
  const place = at & mask;
  v128.store(ring + (<usize>place << 2), v);
  if (place == 0) v128.store(ring + (<usize>(mask + 1) << 2), v);
}

// One allpass in a ring of its own.
// @ts-ignore: decorator
@inline
function allpass(ring: usize, position: i32, mask: i32, length: i32, x: v128): v128 {
  const g = v128.load(K, 16);
  const delayed = take(ring, position - length, mask);
  const v = flush(f32x4.sub(x, f32x4.mul(delayed, g)));
  put(ring, position, mask, v);
  return f32x4.add(delayed, f32x4.mul(v, g));
}

// First reflections of one side, each weaker than the last; the second and the fourth come from a wall that inverts.
// @ts-ignore: decorator
@inline
function reflections(pre: usize, position: i32, mask: i32, delays: usize): v128 {
  let sum = f32x4.mul(v128.load(K, 64), take(pre, position - i32(load<f32>(delays)), mask));
  sum = f32x4.sub(sum, f32x4.mul(v128.load(K, 80), take(pre, position - i32(load<f32>(delays, 4)), mask)));
  sum = f32x4.add(sum, f32x4.mul(v128.load(K, 96), take(pre, position - i32(load<f32>(delays, 8)), mask)));
  sum = f32x4.sub(sum, f32x4.mul(v128.load(K, 112), take(pre, position - i32(load<f32>(delays, 12)), mask)));
  return f32x4.add(sum, f32x4.mul(v128.load(K, 128), take(pre, position - i32(load<f32>(delays, 16)), mask)));
}

const diffused: usize = memory.data(1024, 16);

// Frames at 48 kHz.
const L0 = 113, L1 = 167, L2 = 241, L3 = 337;
const R0 = 127, R1 = 179, R2 = 227, R3 = 353;

// Rows and columns of four vectors.
// @ts-ignore: decorator
@inline
function low(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 4, 1, 5);
}
// @ts-ignore: decorator
@inline
function high(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 6, 3, 7);
}
// @ts-ignore: decorator
@inline
function first(a: v128, b: v128): v128 {
  return v128.shuffle<f64>(a, b, 0, 2);
}
// @ts-ignore: decorator
@inline
function second(a: v128, b: v128): v128 {
  return v128.shuffle<f64>(a, b, 1, 3);
}

// Four frames of a line; while its length moves, on the way from the old tap to the new.
// @ts-ignore: decorator
@inline
function tap(state: usize, k: usize, ring: usize, position: i32, mask: i32, moving: bool, t: v128, s: v128): v128 {
  const now = take(ring, position - load<i32>(state + S_LENGTHS + k), mask);
  if (!moving) return now;
  const old = take(ring, position - load<i32>(state + S_OLD + k), mask);
  return f32x4.add(f32x4.mul(now, t), f32x4.mul(old, s));
}
// The absorbent filter, y = g (1-b) x + b y'.
// @ts-ignore: decorator
@inline
function absorb(x: v128, a: v128, m: v128, b: v128): v128 {
  return f32x4.add(f32x4.mul(x, a), f32x4.mul(m, b));
}

/**
 * Puts the wet signal in place of the dry: params are pre-delay, 8 lengths, 8 gains, 8 poles, the diffusers' factor, the
 * level of first reflections, and their 5 delays a side.
 */
export function reverb(buffer: usize, channels: i32, targets: usize, current: usize, state: usize, sampleRate: i32): void {
  const mask = ringFrames(sampleRate) - 1;
  const preMask = preDelayFrames(sampleRate) - 1;
  const difMask = diffuserFrames(sampleRate) - 1;
  const lineBytes = <usize>(mask + 5) << 2;
  const preBytes = <usize>(preMask + 5) << 2;
  const difBytes = <usize>(difMask + 5) << 2;
  const ring = state + S_RINGS;
  const preL = ring + lineBytes * 8, preR = preL + preBytes;
  const dif = preR + preBytes;

  let position = load<i32>(state, S_POSITION);
  const fresh = load<i32>(state, S_RUN) == 0;
  // Lengths and pre-delay jump to their targets; the block in which they do fades from the old taps to the new.
  const newPre = i32(load<f32>(targets));
  const oldPre = fresh ? newPre : load<i32>(state, S_PRE);
  let moving = oldPre != newPre;
  for (let k: usize = 0; k < 32; k += 4) {
    const want = i32(load<f32>(targets + 4 + k));
    const was = fresh ? want : load<i32>(state + S_LENGTHS + k);
    store<i32>(state + S_OLD + k, was);
    store<i32>(state + S_LENGTHS + k, want);
    if (was != want) moving = true;
  }
  store<i32>(state, newPre, S_PRE);
  store<i32>(state, 1, S_RUN);

  const one = f32x4.splat(1);
  const b0 = v128.load(current + 68), b1 = v128.load(current + 84);
  const a0 = f32x4.mul(v128.load(current + 36), f32x4.sub(one, b0));
  const a1 = f32x4.mul(v128.load(current + 52), f32x4.sub(one, b1));
  let m0 = v128.load(state, S_MEMORY), m1 = v128.load(state, S_MEMORY + 16);
  const norm = v128.load(K, 32);
  const level = v128.load(K, 48);
  const right = buffer + (channels == 2 ? 512 : 0);
  const rate = f64(sampleRate) / 48000.0 * f64(load<f32>(targets, 100));
  const early = load<f32>(current, 104);
  const l0 = i32(L0 * rate), l1 = i32(L1 * rate), l2 = i32(L2 * rate), l3 = i32(L3 * rate);
  const r0 = i32(R0 * rate), r1 = i32(R1 * rate), r2 = i32(R2 * rate), r3 = i32(R3 * rate);

  for (let i = 0; i < BLOCK; i += 4) {
    const at = <usize>i << 2;
    put(preL, position, preMask, v128.load(buffer + at));
    put(preR, position, preMask, v128.load(right + at));
    let x = take(preL, position - newPre, preMask), y = take(preR, position - newPre, preMask);
    let t = one, s = one;
    if (moving) {
      t = f32x4.mul(f32x4.splat(0.0078125), f32x4.add(f32x4.splat(f32(i)), f32x4(1, 2, 3, 4)));
      s = f32x4.sub(one, t);
      x = f32x4.add(f32x4.mul(x, t), f32x4.mul(take(preL, position - oldPre, preMask), s));
      y = f32x4.add(f32x4.mul(y, t), f32x4.mul(take(preR, position - oldPre, preMask), s));
    }
    x = allpass(dif, position, difMask, l0, x);
    x = allpass(dif + difBytes, position, difMask, l1, x);
    x = allpass(dif + difBytes * 2, position, difMask, l2, x);
    x = allpass(dif + difBytes * 3, position, difMask, l3, x);
    y = allpass(dif + difBytes * 4, position, difMask, r0, y);
    y = allpass(dif + difBytes * 5, position, difMask, r1, y);
    y = allpass(dif + difBytes * 6, position, difMask, r2, y);
    y = allpass(dif + difBytes * 7, position, difMask, r3, y);
    v128.store(diffused + at, x);
    v128.store(diffused + at, y, 512);
    position += 4;
  }
  position -= BLOCK;
  for (let i = 0; i < BLOCK; i += 4) {
    const at = <usize>i << 2;
    const x = v128.load(diffused + at), y = v128.load(diffused + at, 512);
    let t = one, s = one;
    if (moving) {
      t = f32x4.mul(f32x4.splat(0.0078125), f32x4.add(f32x4.splat(f32(i)), f32x4(1, 2, 3, 4)));
      s = f32x4.sub(one, t);
    }
    // Absorbent filters, a frame after the other, four lines to a vector.
    let p0 = tap(state, 0, ring, position, mask, moving, t, s);
    let p1 = tap(state, 4, ring + lineBytes, position, mask, moving, t, s);
    let p2 = tap(state, 8, ring + lineBytes * 2, position, mask, moving, t, s);
    let p3 = tap(state, 12, ring + lineBytes * 3, position, mask, moving, t, s);
    let l = low(p0, p1), h = high(p0, p1), m = low(p2, p3), n = high(p2, p3);
    p0 = absorb(first(l, m), a0, m0, b0);
    p1 = absorb(second(l, m), a0, p0, b0);
    p2 = absorb(first(h, n), a0, p1, b0);
    p3 = absorb(second(h, n), a0, p2, b0);
    m0 = flush(p3);
    l = low(p0, p1), h = high(p0, p1), m = low(p2, p3), n = high(p2, p3);
    p0 = first(l, m), p1 = second(l, m), p2 = first(h, n), p3 = second(h, n);
    let p4 = tap(state, 16, ring + lineBytes * 4, position, mask, moving, t, s);
    let p5 = tap(state, 20, ring + lineBytes * 5, position, mask, moving, t, s);
    let p6 = tap(state, 24, ring + lineBytes * 6, position, mask, moving, t, s);
    let p7 = tap(state, 28, ring + lineBytes * 7, position, mask, moving, t, s);
    l = low(p4, p5), h = high(p4, p5), m = low(p6, p7), n = high(p6, p7);
    p4 = absorb(first(l, m), a1, m1, b1);
    p5 = absorb(second(l, m), a1, p4, b1);
    p6 = absorb(first(h, n), a1, p5, b1);
    p7 = absorb(second(h, n), a1, p6, b1);
    m1 = flush(p7);
    l = low(p4, p5), h = high(p4, p5), m = low(p6, p7), n = high(p6, p7);
    p4 = first(l, m), p5 = second(l, m), p6 = first(h, n), p7 = second(h, n);

    let left = f32x4.mul(level, f32x4.add(
      f32x4.add(f32x4.sub(p0, p1), f32x4.add(p2, p3)), f32x4.sub(f32x4.sub(p5, p4), f32x4.sub(p7, p6)),
    ));
    let turned = f32x4.mul(level, f32x4.add(
      f32x4.add(f32x4.add(p0, p1), f32x4.sub(p3, p2)), f32x4.add(f32x4.sub(p4, p5), f32x4.add(p6, p7)),
    ));
    if (early != 0) {
      const e = f32x4.splat(early);
      left = f32x4.add(left, f32x4.mul(e, reflections(preL, position - newPre, preMask, targets + 108)));
      turned = f32x4.add(turned, f32x4.mul(e, reflections(preR, position - newPre, preMask, targets + 128)));
    }

    // A Hadamard matrix by sums and differences; the input joins with another sign on each line.
    const s0 = f32x4.mul(norm, f32x4.add(p0, p4)), s1 = f32x4.mul(norm, f32x4.add(p1, p5));
    const s2 = f32x4.mul(norm, f32x4.add(p2, p6)), s3 = f32x4.mul(norm, f32x4.add(p3, p7));
    const d0 = f32x4.mul(norm, f32x4.sub(p0, p4)), d1 = f32x4.mul(norm, f32x4.sub(p1, p5));
    const d2 = f32x4.mul(norm, f32x4.sub(p2, p6)), d3 = f32x4.mul(norm, f32x4.sub(p3, p7));
    const sa = f32x4.add(s0, s1), sb = f32x4.sub(s0, s1), sc = f32x4.add(s2, s3), sd = f32x4.sub(s2, s3);
    const da = f32x4.add(d0, d1), db = f32x4.sub(d0, d1), dc = f32x4.add(d2, d3), dd = f32x4.sub(d2, d3);
    put(ring, position, mask, f32x4.add(f32x4.add(sa, sc), x));
    put(ring + lineBytes, position, mask, f32x4.add(f32x4.add(sb, sd), y));
    put(ring + lineBytes * 2, position, mask, f32x4.add(f32x4.sub(sa, sc), x));
    put(ring + lineBytes * 3, position, mask, f32x4.add(f32x4.sub(sb, sd), y));
    put(ring + lineBytes * 4, position, mask, f32x4.add(f32x4.add(da, dc), x));
    put(ring + lineBytes * 5, position, mask, f32x4.sub(f32x4.add(db, dd), y));
    put(ring + lineBytes * 6, position, mask, f32x4.sub(f32x4.sub(da, dc), x));
    put(ring + lineBytes * 7, position, mask, f32x4.add(f32x4.sub(db, dd), y));

    if (channels == 2) {
      v128.store(buffer + at, left);
      v128.store(right + at, turned);
    } else v128.store(buffer + at, f32x4.mul(f32x4.splat(0.70710678), f32x4.add(left, turned)));
    position += 4;
  }
  v128.store(state, m0, S_MEMORY);
  v128.store(state, m1, S_MEMORY + 16);
  store<i32>(state, position, S_POSITION);
}
