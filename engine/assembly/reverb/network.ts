// The lines: the absorbent filters behind them, the pairs that turn, and the matrix that feeds them again.
import * as its from '../../../build/engine/parameters/reverb';
import { flush } from '../math';
import { frames, perFrame } from '../span';
import { S_BASS, S_PHASES, S_TOP } from './state';
import { across, crossing } from './walls';

// Of each four lines: mids less highs, highs, corner, lows over mids less 1, their corner; and how far each goes in a frame.
const COEFFICIENTS: usize = 160;
const coefficients: usize = memory.data(4 * 160, 16);
let moving: bool = false;
let deep: bool = false;

// @ts-ignore: decorator
@inline
function ramp(to: usize, from: v128, goal: v128, step: v128): void {
  v128.store(to, from);
  v128.store(to, f32x4.mul(step, f32x4.sub(goal, from)), 80);
}
export function workOut(previous: usize, current: usize): void {
  const one = f32x4.splat(1), step = f32x4.splat(perFrame);
  moving = false;
  deep = false;
  for (let at: usize = 0; at < 64; at += 16) {
    const to = coefficients + (at >> 4) * COEFFICIENTS;
    const m0 = v128.load(previous + its.middles + at), m1 = v128.load(current + its.middles + at);
    const h0 = v128.load(previous + its.highs + at), h1 = v128.load(current + its.highs + at);
    const b0 = f32x4.sub(v128.load(previous + its.bass + at), one), b1 = f32x4.sub(v128.load(current + its.bass + at), one);
    ramp(to, f32x4.sub(m0, h0), f32x4.sub(m1, h1), step);
    ramp(to + 16, h0, h1, step);
    ramp(to + 32, v128.load(previous + its.corners + at), v128.load(current + its.corners + at), step);
    ramp(to + 48, b0, b1, step);
    ramp(to + 64, v128.load(previous + its.bassCorners + at), v128.load(current + its.bassCorners + at), step);
    for (let i: usize = 0; i < 80; i += 16) if (v128.any_true(f32x4.ne(v128.load(to + 80 + i), f32x4.splat(0)))) moving = true;
    if (v128.any_true(f32x4.ne(b0, f32x4.splat(0))) || v128.any_true(f32x4.ne(b1, f32x4.splat(0)))) deep = true;
  }
}
function move(to: usize): void {
  for (let i: usize = 0; i < 80; i += 16) v128.store(to + i, f32x4.add(v128.load(to + i), v128.load(to + i, 80)));
}

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

// What the lines give, four frames of each; where they are read, and were before their walls moved.
export const lines: usize = memory.data(256, 16);
export const reads: usize = memory.data(64, 16);
export const olds: usize = memory.data(64, 16);

// A corner filter, one frame of four lines: v = (x - s) c, lows = v + s, s = lows + v.
let top: v128 = f32x4.splat(0);
let bass: v128 = f32x4.splat(0);
// @ts-ignore: decorator
@inline
function absorb(x: v128, at: usize): v128 {
  const v = f32x4.mul(f32x4.sub(x, top), v128.load(at, 32));
  const lows = f32x4.add(v, top);
  top = f32x4.add(lows, v);
  return f32x4.add(f32x4.mul(v128.load(at, 16), x), f32x4.mul(v128.load(at), lows));
}
// The same for lows of their own, and where anything moves.
function deepen(x: v128, at: usize): v128 {
  if (moving) move(at);
  const v = f32x4.mul(f32x4.sub(x, bass), v128.load(at, 64));
  const lows = f32x4.add(v, bass);
  bass = f32x4.add(lows, v);
  return absorb(f32x4.add(x, f32x4.mul(v128.load(at, 48), lows)), at);
}
// @ts-ignore: decorator
@inline
function line(k: usize, at: usize): v128 {
  const now = v128.load(load<usize>(reads + (k << 2)) + at);
  return crossing ? across(now, load<usize>(olds + (k << 2)), at, k) : now;
}

/** Reads four lines, through their filters. */
// @ts-ignore: decorator
@inline
export function four(k: usize, at: usize, state: usize): void {
  const p = line(k, at), q = line(k + 1, at), r = line(k + 2, at), s = line(k + 3, at);
  const its = coefficients + (k >> 2) * COEFFICIENTS;
  const l = low(p, q), h = high(p, q), m = low(r, s), n = high(r, s);
  let x0 = first(l, m), x1 = second(l, m), x2 = first(h, n), x3 = second(h, n);
  if (deep || moving) {
    bass = v128.load(state + S_BASS + (k << 2));
    top = v128.load(state + S_TOP + (k << 2));
    x0 = deepen(x0, its);
    x1 = deepen(x1, its);
    x2 = deepen(x2, its);
    x3 = deepen(x3, its);
    v128.store(state + S_BASS + (k << 2), flush(bass));
    v128.store(state + S_TOP + (k << 2), flush(top));
  } else {
    // As `absorb`, with what goes from frame to frame kept at hand.
    const less = v128.load(its), highs = v128.load(its, 16), corner = v128.load(its, 32);
    let kept = v128.load(state + S_TOP + (k << 2));
    const v0 = f32x4.mul(f32x4.sub(x0, kept), corner), lows0 = f32x4.add(v0, kept);
    kept = f32x4.add(lows0, v0);
    const v1 = f32x4.mul(f32x4.sub(x1, kept), corner), lows1 = f32x4.add(v1, kept);
    kept = f32x4.add(lows1, v1);
    const v2 = f32x4.mul(f32x4.sub(x2, kept), corner), lows2 = f32x4.add(v2, kept);
    kept = f32x4.add(lows2, v2);
    const v3 = f32x4.mul(f32x4.sub(x3, kept), corner), lows3 = f32x4.add(v3, kept);
    v128.store(state + S_TOP + (k << 2), flush(f32x4.add(lows3, v3)));
    x0 = f32x4.add(f32x4.mul(highs, x0), f32x4.mul(less, lows0));
    x1 = f32x4.add(f32x4.mul(highs, x1), f32x4.mul(less, lows1));
    x2 = f32x4.add(f32x4.mul(highs, x2), f32x4.mul(less, lows2));
    x3 = f32x4.add(f32x4.mul(highs, x3), f32x4.mul(less, lows3));
  }
  const to = lines + (k << 4);
  const l2 = low(x0, x1), h2 = high(x0, x1), m2 = low(x2, x3), n2 = high(x2, x3);
  v128.store(to, first(l2, m2));
  v128.store(to, second(l2, m2), 16);
  v128.store(to, first(h2, n2), 32);
  v128.store(to, second(h2, n2), 48);
}

// Of the eight pairs: cosines and sines, what they are four frames on, and of how far they turn in those.
const turning: usize = memory.data(192, 16);
export function turn(state: usize, current: usize): void {
  const slowest = f64(load<f32>(current, its.turns));
  for (let k: usize = 0; k < 8; k++) {
    const rate: f64 = slowest * (1 + 0.57 * f64(k)) * ((k & 1) != 0 ? -1 : 1);
    let phase = load<f64>(state + S_PHASES + (k << 3));
    const at = turning + (k << 2);
    store<f32>(at, f32(Math.cos(phase + f64(k))), 64);
    store<f32>(at, f32(Math.sin(phase + f64(k))), 96);
    store<f32>(at, f32(Math.cos(4 * rate)), 128);
    store<f32>(at, f32(Math.sin(4 * rate)), 160);
    phase += rate * f64(frames);
    if (abs(phase) > 6.283185307179586) phase -= phase > 0 ? 6.283185307179586 : -6.283185307179586;
    store<f64>(state + S_PHASES + (k << 3), phase);
  }
}
export function turnOn(): void {
  for (let at = turning; at < turning + 32; at += 16) {
    const c = v128.load(at, 64), s = v128.load(at, 96), dc = v128.load(at, 128), ds = v128.load(at, 160);
    v128.store(at, c);
    v128.store(at, s, 32);
    v128.store(at, f32x4.sub(f32x4.mul(c, dc), f32x4.mul(s, ds)), 64);
    v128.store(at, f32x4.add(f32x4.mul(s, dc), f32x4.mul(c, ds)), 96);
  }
}
// A cosine or sine at each of four frames.
// @ts-ignore: decorator
@inline
function turned(at: usize, by: v128): v128 {
  const now = v128.load32_splat(at);
  return f32x4.add(now, f32x4.mul(by, f32x4.sub(v128.load32_splat(at, 64), now)));
}

// Turns pairs k, k + 8 and k + 4, k + 12, and makes sums and differences of the four.
// @ts-ignore: decorator
@inline
export function mixFour(k: usize): void {
  const at = lines + (k << 4), from = turning + (k << 2), by = f32x4(0, 0.25, 0.5, 0.75);
  const c = turned(from, by), s = turned(from + 32, by), c4 = turned(from + 16, by), s4 = turned(from + 48, by);
  const a = v128.load(at), e = v128.load(at, 64), i = v128.load(at, 128), m = v128.load(at, 192);
  const a1 = f32x4.sub(f32x4.mul(c, a), f32x4.mul(s, i)), i1 = f32x4.add(f32x4.mul(s, a), f32x4.mul(c, i));
  const e1 = f32x4.sub(f32x4.mul(c4, e), f32x4.mul(s4, m)), m1 = f32x4.add(f32x4.mul(s4, e), f32x4.mul(c4, m));
  const p = f32x4.add(a1, e1), q = f32x4.sub(a1, e1), r = f32x4.add(i1, m1), t = f32x4.sub(i1, m1);
  v128.store(at, f32x4.add(p, r));
  v128.store(at, f32x4.add(q, t), 64);
  v128.store(at, f32x4.sub(p, r), 128);
  v128.store(at, f32x4.sub(q, t), 192);
}
// The rest of the matrix, for four lines that stand together, into which what is new joins with signs of their own.
// @ts-ignore: decorator
@inline
export function feedFour(k: usize, into: usize, apart: usize, x: v128, y: v128, flip: bool): void {
  const at = lines + (k << 4), norm = f32x4.splat(0.25);
  const a = v128.load(at), b = v128.load(at, 16), c = v128.load(at, 32), d = v128.load(at, 48);
  const p = f32x4.add(a, b), q = f32x4.sub(a, b), r = f32x4.add(c, d), s = f32x4.sub(c, d);
  const u = f32x4.mul(norm, f32x4.add(p, r)), v = f32x4.mul(norm, f32x4.add(q, s));
  const w = f32x4.mul(norm, f32x4.sub(p, r)), z = f32x4.mul(norm, f32x4.sub(q, s));
  const to = into + k * apart;
  v128.store(to, flush(f32x4.add(u, x)));
  v128.store(to + apart, flush(flip ? f32x4.sub(v, y) : f32x4.add(v, y)));
  v128.store(to + apart * 2, flush(flip ? f32x4.add(w, x) : f32x4.sub(w, x)));
  v128.store(to + apart * 3, flush(f32x4.add(z, y)));
}
