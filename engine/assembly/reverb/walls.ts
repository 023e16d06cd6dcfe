// What stands before and beside the lines: rings, diffusers and first reflections, and how walls that move give way to others.
import { BLOCK_BYTES } from '../../../build/engine/layout';
import { bowOf, flush } from '../math';
import { frames, oneBytes } from '../span';
import { G_GAINS, G_TAPS, S_LEFT, TAPS } from './state';

// Where a block begins in a ring, counted in frames. One that would stand at the ring's start stands behind its end instead, and
// is put at the start too when it is whole (see `wrap`): so no block that is read or written falls apart.
// @ts-ignore: decorator
@inline
export function placeOf(position: i32, size: i32): i32 {
  const place = position & (size - 1) & ~127;
  return place == 0 ? size : place;
}
// Where the block stands that lies so many frames back.
// @ts-ignore: decorator
@inline
export function back(ring: usize, place: i32, delay: i32, size: i32): usize {
  const from = place - delay;
  return ring + (<usize>(from < 0 ? from + size : from) << 2);
}
export function wrap(ring: usize, place: i32, size: i32): void {
  if (place == size) memory.copy(ring, ring + (<usize>size << 2), BLOCK_BYTES);
}
// @ts-ignore: decorator
@inline
export function framesAt(geometry: usize, at: usize): i32 {
  return i32(load<f32>(geometry + at));
}

// What of the old walls is heard yet, a value a frame: sixteen rows, each of which gives way in a quarter of the time, one after
// the other, so that never much of what sounds goes through two places at once and cancels there.
const weights: usize = memory.data(16 * 512, 16);
export let crossing: bool = false;
/** Bytes by which this part of the block stands behind its start. */
export let offset: usize = 0;
export function beginAt(bytes: usize): void {
  offset = bytes;
}

export function weigh(state: usize, moves: f32): void {
  const from = load<f32>(state, S_LEFT);
  crossing = from > 0;
  if (!crossing) return;
  const long: f32 = moves * <f32>0.25, apart: f32 = (moves - long) / 15;
  for (let k: usize = 0; k < 16; k++) {
    const behind: usize = 15 - k;
    let left: f32 = from - f32(behind) * apart;
    for (let i: usize = 0; i < oneBytes; i += 4) {
      left -= 1;
      const t: f32 = min(<f32>1, max(<f32>0, left / long));
      store<f32>(weights + (k << 9) + i, bowOf(t));
    }
  }
  store<f32>(state, max(<f32>0, from - <f32>frames), S_LEFT);
}
// Between what is read at the new place and at the old one. @param row of the weights
// @ts-ignore: decorator
@inline
export function across(now: v128, old: usize, at: usize, row: usize): v128 {
  return f32x4.add(now, f32x4.mul(v128.load(weights + (row << 9) + at), f32x4.sub(v128.load(old + at), now)));
}

// One allpass in a ring of its own.
// @ts-ignore: decorator
@inline
function allpass(x: v128, delayed: v128, to: usize): v128 {
  const g = f32x4.splat(0.65);
  const v = flush(f32x4.sub(x, f32x4.mul(delayed, g)));
  v128.store(to, v);
  return f32x4.add(delayed, f32x4.mul(v, g));
}
/**
 * A side's four allpasses, one after the other, in place.
 * @param rings of the first; each of the others stands `apart` bytes on
 * @param lengths of the four, in frames; and what they were
 */
export function diffuse(block: usize, rings: usize, apart: usize, place: i32, size: i32, lengths: usize, before: usize): void {
  const r1 = rings + apart, r2 = r1 + apart, r3 = r2 + apart;
  const f0 = back(rings, place, framesAt(lengths, 0), size) + offset, f1 = back(r1, place, framesAt(lengths, 4), size) + offset;
  const f2 = back(r2, place, framesAt(lengths, 8), size) + offset, f3 = back(r3, place, framesAt(lengths, 12), size) + offset;
  const to = rings + (<usize>place << 2) + offset;
  const t1 = to + apart, t2 = t1 + apart, t3 = t2 + apart;
  if (!crossing) {
    for (let at: usize = 0; at < oneBytes; at += 16) {
      let x = allpass(v128.load(block + at), v128.load(f0 + at), to + at);
      x = allpass(x, v128.load(f1 + at), t1 + at);
      x = allpass(x, v128.load(f2 + at), t2 + at);
      v128.store(block + at, allpass(x, v128.load(f3 + at), t3 + at));
    }
    return;
  }
  const o0 = back(rings, place, framesAt(before, 0), size) + offset, o1 = back(r1, place, framesAt(before, 4), size) + offset;
  const o2 = back(r2, place, framesAt(before, 8), size) + offset, o3 = back(r3, place, framesAt(before, 12), size) + offset;
  for (let at: usize = 0; at < oneBytes; at += 16) {
    let x = allpass(v128.load(block + at), across(v128.load(f0 + at), o0, at, 0), to + at);
    x = allpass(x, across(v128.load(f1 + at), o1, at, 5), t1 + at);
    x = allpass(x, across(v128.load(f2 + at), o2, at, 10), t2 + at);
    v128.store(block + at, allpass(x, across(v128.load(f3 + at), o3, at, 15), t3 + at));
  }
}

// The diffused signal of both sides, and the first reflections.
export const diffused: usize = memory.data(1024, 16);
export const walls: usize = memory.data(1024, 16);
const now: usize = memory.data(512, 16);
const before: usize = memory.data(512, 16);

// Adds four of a side's reflections: they come from both sides by turns.
// @ts-ignore: decorator
@inline
function addFour(to: usize, taps: usize, even: usize, odd: usize, place: i32, size: i32): void {
  const levels = taps + G_GAINS - G_TAPS;
  const a = back(even, place, i32(load<f32>(taps)), size) + offset, b = back(odd, place, i32(load<f32>(taps, 4)), size) + offset;
  const c = back(even, place, i32(load<f32>(taps, 8)), size) + offset, d = back(odd, place, i32(load<f32>(taps, 12)), size) + offset;
  const ga = v128.load32_splat(levels), gb = v128.load32_splat(levels, 4);
  const gc = v128.load32_splat(levels, 8), gd = v128.load32_splat(levels, 12);
  for (let at: usize = 0; at < oneBytes; at += 16) {
    const ab = f32x4.add(f32x4.mul(ga, v128.load(a + at)), f32x4.mul(gb, v128.load(b + at)));
    const cd = f32x4.add(f32x4.mul(gc, v128.load(c + at)), f32x4.mul(gd, v128.load(d + at)));
    v128.store(to + at, f32x4.add(v128.load(to + at), f32x4.add(ab, cd)));
  }
}
// Where four frames of each of a side's reflections stand, and how strong each is.
const froms: usize = memory.data(80, 16);
const strengths: usize = memory.data(80 * 4, 16);
// All of a side's reflections in one go.
function addAll(to: usize, taps: usize, even: usize, odd: usize, place: i32, size: i32): void {
  for (let k: usize = 0; k < TAPS; k++) {
    const ring = (k & 1) != 0 ? odd : even;
    store<usize>(froms + (k << 2), back(ring, place, i32(load<f32>(taps + (k << 2))), size) + offset);
    v128.store(strengths + (k << 4), v128.load32_splat(taps + G_GAINS - G_TAPS + (k << 2)));
  }
  for (let at: usize = 0; at < oneBytes; at += 16) {
    let a = f32x4.splat(0), b = a, c = a, d = a;
    for (let k: usize = 0; k < TAPS; k += 4) {
      const p = froms + (k << 2), g = strengths + (k << 4);
      a = f32x4.add(a, f32x4.mul(v128.load(g), v128.load(load<usize>(p) + at)));
      b = f32x4.add(b, f32x4.mul(v128.load(g, 16), v128.load(load<usize>(p, 4) + at)));
      c = f32x4.add(c, f32x4.mul(v128.load(g, 32), v128.load(load<usize>(p, 8) + at)));
      d = f32x4.add(d, f32x4.mul(v128.load(g, 48), v128.load(load<usize>(p, 12) + at)));
    }
    v128.store(to + at, f32x4.add(f32x4.add(a, b), f32x4.add(c, d)));
  }
}
export function reflect(to: usize, side: usize, geometry: usize, was: usize, left: usize, right: usize, place: i32, size: i32): void {
  const even = side == 0 ? left : right, odd = side == 0 ? right : left;
  if (!crossing) {
    addAll(to, geometry + G_TAPS + ((side * TAPS) << 2), even, odd, place, size);
    return;
  }
  memory.fill(to, 0, oneBytes);
  for (let k: usize = 0; k < TAPS; k += 4) {
    const taps = G_TAPS + ((side * TAPS + k) << 2);
    memory.fill(now, 0, oneBytes);
    memory.fill(before, 0, oneBytes);
    addFour(now, geometry + taps, even, odd, place, size);
    addFour(before, was + taps, even, odd, place, size);
    for (let at: usize = 0; at < oneBytes; at += 16)
      v128.store(to + at, f32x4.add(v128.load(to + at), across(v128.load(now + at), before, at, k * 3 / 4)));
  }
}
