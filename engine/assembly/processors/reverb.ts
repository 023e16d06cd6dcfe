// A feedback delay network of eight lines. Every line is longer than four frames, so four are computed at once: the lines and
// the diffusers four frames to a vector, the absorbent filters, which go from frame to frame, four lines to a vector. The
// formulas of its gains and poles stand in core/processors/reverb.ts, which also sizes the state; a test holds the two
// together.
import * as its from '../../../build/engine/parameters/reverb';
import { BLOCK, BLOCK_BYTES } from '../../../build/engine/layout';
import { ringOf } from '../math';

function ringFrames(sampleRate: i32): i32 {
  return ringOf(Math.ceil(2797.0 * 2.0 * 1.45 * f64(sampleRate) / 48000.0) + 4);
}
function preDelayFrames(sampleRate: i32): i32 {
  return ringOf(Math.ceil(0.4 * f64(sampleRate)) + 4);
}
function diffuserFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(353.0 * f64(sampleRate) / 48000.0) + 4));
}

// State: 0 write position, 4 pre-delay in frames, 8 whether it has run, 16 lengths of the lines (8 x i32), 48 lengths before
// the last change, 80 low-pass memory (2 vectors), 112 rings: 8 lines, 2 pre-delays, 8 diffusers, each with its first
// block once more behind its last.
const S_POSITION: usize = 0;
const S_PRE: usize = 4;
const S_RUN: usize = 8;
const S_LENGTHS: usize = 16;
const S_OLD: usize = 48;
const S_MEMORY: usize = 80;
const S_RINGS: usize = 112;

export const FINEST = 128;
export function bytes(sampleRate: i32): i32 {
  return 112 + 4 * (
    8 * (ringFrames(sampleRate) + BLOCK) + 2 * (preDelayFrames(sampleRate) + BLOCK) + 8 * (diffuserFrames(sampleRate) + BLOCK)
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

// Where a block begins in a ring, counted in frames. One that would stand at the ring's start stands behind its end instead, and
// is put at the start too when it is whole (see `wrap`): so no block that is read or written falls apart.
// @ts-ignore: decorator
@inline
function placeOf(position: i32, frames: i32): i32 {
  const place = position & (frames - 1);
  return place == 0 ? frames : place;
}
// Where the block stands that lies so many frames back.
// @ts-ignore: decorator
@inline
function back(ring: usize, place: i32, delay: i32, frames: i32): usize {
  const from = place - delay;
  return ring + (<usize>(from < 0 ? from + frames : from) << 2);
}
function wrap(ring: usize, place: i32, frames: i32): void {
  if (place == frames) memory.copy(ring, ring + (<usize>frames << 2), BLOCK_BYTES);
}

// One allpass in a ring of its own, over a block in place.
// @ts-ignore: decorator
@inline
function allpass(block: usize, ring: usize, place: i32, length: i32, frames: i32): void {
  const g = v128.load(K, 16);
  let from = back(ring, place, length, frames), to = ring + (<usize>place << 2);
  const end = block + BLOCK_BYTES;
  do {
    const delayed = v128.load(from);
    const v = flush(f32x4.sub(v128.load(block), f32x4.mul(delayed, g)));
    v128.store(to, v);
    v128.store(block, f32x4.add(delayed, f32x4.mul(v, g)));
    block += 16;
    from += 16;
    to += 16;
  } while (block < end);
  wrap(ring, place, frames);
}
function diffuse(block: usize, rings: usize, ringBytes: usize, place: i32, frames: i32, l0: i32, l1: i32, l2: i32, l3: i32): void {
  allpass(block, rings, place, l0, frames);
  allpass(block, rings + ringBytes, place, l1, frames);
  allpass(block, rings + ringBytes * 2, place, l2, frames);
  allpass(block, rings + ringBytes * 3, place, l3, frames);
}

// First reflections of one side, each weaker than the last; the second and the fourth come from a wall that inverts.
// @ts-ignore: decorator
@inline
function reflections(from: usize, at: usize): v128 {
  let sum = f32x4.mul(v128.load(K, 64), v128.load(load<usize>(from) + at));
  sum = f32x4.sub(sum, f32x4.mul(v128.load(K, 80), v128.load(load<usize>(from, 4) + at)));
  sum = f32x4.add(sum, f32x4.mul(v128.load(K, 96), v128.load(load<usize>(from, 8) + at)));
  sum = f32x4.sub(sum, f32x4.mul(v128.load(K, 112), v128.load(load<usize>(from, 12) + at)));
  return f32x4.add(sum, f32x4.mul(v128.load(K, 128), v128.load(load<usize>(from, 16) + at)));
}
// Where the reflections of both sides stand; and the taps of all lines before their last change.
const walls: usize = memory.data(40, 16);
const olds: usize = memory.data(32, 16);

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

// On the way from an old tap to the new one.
// @ts-ignore: decorator
@inline
function fade(now: v128, t: v128, old: usize, s: v128): v128 {
  return f32x4.add(f32x4.mul(now, t), f32x4.mul(v128.load(old), s));
}
// The absorbent filter, y = g (1-b) x + b y'.
// @ts-ignore: decorator
@inline
function absorb(x: v128, a: v128, m: v128, b: v128): v128 {
  return f32x4.add(f32x4.mul(x, a), f32x4.mul(m, b));
}

// Where a line is read; what it was before its length changed is kept beside.
// @ts-ignore: decorator
@inline
function tap(state: usize, k: usize, ring: usize, place: i32, frames: i32): usize {
  store<usize>(olds + (k << 2), back(ring, place, load<i32>(state + S_OLD + (k << 2)), frames));
  return back(ring, place, load<i32>(state + S_LENGTHS + (k << 2)), frames);
}

/** Puts the wet signal in place of the dry. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const frames = ringFrames(sampleRate), preFrames = preDelayFrames(sampleRate), difFrames = diffuserFrames(sampleRate);
  const lineBytes = <usize>(frames + BLOCK) << 2;
  const preBytes = <usize>(preFrames + BLOCK) << 2;
  const difBytes = <usize>(difFrames + BLOCK) << 2;
  const ring = state + S_RINGS;
  const preL = ring + lineBytes * 8, preR = preL + preBytes;
  const dif = preR + preBytes;

  const position = load<i32>(state, S_POSITION);
  const place = placeOf(position, frames), prePlace = placeOf(position, preFrames), difPlace = placeOf(position, difFrames);
  const fresh = load<i32>(state, S_RUN) == 0;
  // Lengths and pre-delay jump to their targets; the block in which they do fades from the old taps to the new.
  const newPre = i32(load<f32>(targets, its.preDelay));
  const oldPre = fresh ? newPre : load<i32>(state, S_PRE);
  let moving = oldPre != newPre;
  for (let k: usize = 0; k < 32; k += 4) {
    const want = i32(load<f32>(targets + its.lengths + k));
    const was = fresh ? want : load<i32>(state + S_LENGTHS + k);
    store<i32>(state + S_OLD + k, was);
    store<i32>(state + S_LENGTHS + k, want);
    if (was != want) moving = true;
  }
  store<i32>(state, newPre, S_PRE);
  store<i32>(state, 1, S_RUN);

  const one = f32x4.splat(1);
  const b0 = v128.load(current + its.poles), b1 = v128.load(current + its.poles + 16);
  const a0 = f32x4.mul(v128.load(current + its.gains), f32x4.sub(one, b0));
  const a1 = f32x4.mul(v128.load(current + its.gains + 16), f32x4.sub(one, b1));
  let m0 = v128.load(state, S_MEMORY), m1 = v128.load(state, S_MEMORY + 16);
  const norm = v128.load(K, 32);
  const level = v128.load(K, 48);
  const right = buffer + (channels == 2 ? BLOCK_BYTES : 0);
  const rate = f64(sampleRate) / 48000.0 * f64(load<f32>(targets, its.diffusion));
  const early = load<f32>(current, its.early);

  const intoL = preL + (<usize>prePlace << 2), intoR = preR + (<usize>prePlace << 2);
  memory.copy(intoL, buffer, BLOCK_BYTES);
  memory.copy(intoR, right, BLOCK_BYTES);
  memory.copy(diffused, back(preL, prePlace, newPre, preFrames), BLOCK_BYTES);
  memory.copy(diffused + BLOCK_BYTES, back(preR, prePlace, newPre, preFrames), BLOCK_BYTES);
  if (moving) {
    const left = back(preL, prePlace, oldPre, preFrames), other = back(preR, prePlace, oldPre, preFrames);
    for (let i = 0; i < BLOCK; i += 4) {
      const at = <usize>i << 2;
      const t = f32x4.mul(f32x4.splat(0.0078125), f32x4.add(f32x4.splat(f32(i)), f32x4(1, 2, 3, 4)));
      const s = f32x4.sub(one, t);
      v128.store(diffused + at, fade(v128.load(diffused + at), t, left + at, s));
      v128.store(diffused + at, fade(v128.load(diffused + at, BLOCK_BYTES), t, other + at, s), BLOCK_BYTES);
    }
  }
  if (early != 0)
    for (let k: usize = 0; k < 20; k += 4) {
      store<usize>(walls + k, back(preL, prePlace, newPre + i32(load<f32>(targets + its.taps + k)), preFrames));
      store<usize>(walls + k, back(preR, prePlace, newPre + i32(load<f32>(targets + its.taps + 20 + k)), preFrames), 20);
    }
  diffuse(diffused, dif, difBytes, difPlace, difFrames, i32(L0 * rate), i32(L1 * rate), i32(L2 * rate), i32(L3 * rate));
  diffuse(
    diffused + BLOCK_BYTES, dif + difBytes * 4, difBytes, difPlace, difFrames,
    i32(R0 * rate), i32(R1 * rate), i32(R2 * rate), i32(R3 * rate),
  );

  const from0 = tap(state, 0, ring, place, frames), from1 = tap(state, 1, ring + lineBytes, place, frames);
  const from2 = tap(state, 2, ring + lineBytes * 2, place, frames), from3 = tap(state, 3, ring + lineBytes * 3, place, frames);
  const from4 = tap(state, 4, ring + lineBytes * 4, place, frames), from5 = tap(state, 5, ring + lineBytes * 5, place, frames);
  const from6 = tap(state, 6, ring + lineBytes * 6, place, frames), from7 = tap(state, 7, ring + lineBytes * 7, place, frames);
  const into = ring + (<usize>place << 2);
  let at: usize = 0;
  do {
    const x = v128.load(diffused + at), y = v128.load(diffused + at, BLOCK_BYTES);
    let p0 = v128.load(from0 + at), p1 = v128.load(from1 + at), p2 = v128.load(from2 + at), p3 = v128.load(from3 + at);
    let p4 = v128.load(from4 + at), p5 = v128.load(from5 + at), p6 = v128.load(from6 + at), p7 = v128.load(from7 + at);
    if (moving) {
      const t = f32x4.mul(f32x4.splat(0.0078125), f32x4.add(f32x4.splat(f32(at >> 2)), f32x4(1, 2, 3, 4)));
      const s = f32x4.sub(one, t);
      p0 = fade(p0, t, load<usize>(olds) + at, s);
      p1 = fade(p1, t, load<usize>(olds, 4) + at, s);
      p2 = fade(p2, t, load<usize>(olds, 8) + at, s);
      p3 = fade(p3, t, load<usize>(olds, 12) + at, s);
      p4 = fade(p4, t, load<usize>(olds, 16) + at, s);
      p5 = fade(p5, t, load<usize>(olds, 20) + at, s);
      p6 = fade(p6, t, load<usize>(olds, 24) + at, s);
      p7 = fade(p7, t, load<usize>(olds, 28) + at, s);
    }
    // Absorbent filters, a frame after the other, four lines to a vector.
    let l = low(p0, p1), h = high(p0, p1), m = low(p2, p3), n = high(p2, p3);
    p0 = absorb(first(l, m), a0, m0, b0);
    p1 = absorb(second(l, m), a0, p0, b0);
    p2 = absorb(first(h, n), a0, p1, b0);
    p3 = absorb(second(h, n), a0, p2, b0);
    m0 = flush(p3);
    l = low(p0, p1), h = high(p0, p1), m = low(p2, p3), n = high(p2, p3);
    p0 = first(l, m), p1 = second(l, m), p2 = first(h, n), p3 = second(h, n);
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
      left = f32x4.add(left, f32x4.mul(e, reflections(walls, at)));
      turned = f32x4.add(turned, f32x4.mul(e, reflections(walls + 20, at)));
    }

    // A Hadamard matrix by sums and differences; the input joins with another sign on each line.
    const s0 = f32x4.mul(norm, f32x4.add(p0, p4)), s1 = f32x4.mul(norm, f32x4.add(p1, p5));
    const s2 = f32x4.mul(norm, f32x4.add(p2, p6)), s3 = f32x4.mul(norm, f32x4.add(p3, p7));
    const d0 = f32x4.mul(norm, f32x4.sub(p0, p4)), d1 = f32x4.mul(norm, f32x4.sub(p1, p5));
    const d2 = f32x4.mul(norm, f32x4.sub(p2, p6)), d3 = f32x4.mul(norm, f32x4.sub(p3, p7));
    const sa = f32x4.add(s0, s1), sb = f32x4.sub(s0, s1), sc = f32x4.add(s2, s3), sd = f32x4.sub(s2, s3);
    const da = f32x4.add(d0, d1), db = f32x4.sub(d0, d1), dc = f32x4.add(d2, d3), dd = f32x4.sub(d2, d3);
    v128.store(into + at, f32x4.add(f32x4.add(sa, sc), x));
    v128.store(into + lineBytes + at, f32x4.add(f32x4.add(sb, sd), y));
    v128.store(into + lineBytes * 2 + at, f32x4.add(f32x4.sub(sa, sc), x));
    v128.store(into + lineBytes * 3 + at, f32x4.add(f32x4.sub(sb, sd), y));
    v128.store(into + lineBytes * 4 + at, f32x4.add(f32x4.add(da, dc), x));
    v128.store(into + lineBytes * 5 + at, f32x4.sub(f32x4.add(db, dd), y));
    v128.store(into + lineBytes * 6 + at, f32x4.sub(f32x4.sub(da, dc), x));
    v128.store(into + lineBytes * 7 + at, f32x4.add(f32x4.sub(db, dd), y));

    if (channels == 2) {
      v128.store(buffer + at, left);
      v128.store(right + at, turned);
    } else v128.store(buffer + at, f32x4.mul(f32x4.splat(0.70710678), f32x4.add(left, turned)));
    at += 16;
  } while (at < BLOCK_BYTES);
  for (let k: usize = 0; k < 8; k++) wrap(ring + lineBytes * k, place, frames);
  wrap(preL, prePlace, preFrames);
  wrap(preR, prePlace, preFrames);
  v128.store(state, m0, S_MEMORY);
  v128.store(state, m1, S_MEMORY + 16);
  store<i32>(state, position + BLOCK, S_POSITION);
}
