// The lines: the absorbent filters behind them, the pairs that turn, and the matrix that feeds them again.
import * as its from '../../../build/engine/parameters/reverb';
import { flush } from '../math';
import { frames, perFrame } from '../span';
import { anyMoves, fourOf } from '../travel';
import { S_BASS, S_PHASES, S_TOP } from './state';
import { across, crossing } from './walls';

// Of each four lines: mids less highs, highs, corner, lows over mids less 1, their corner; and how far each goes in a frame.
const COEFFICIENTS: usize = 160;
const coefficients: usize = memory.data(4 * 160, 16);
let moving: bool = false;
// In a part of four frames they go as they are told to: the same five at each of the frames.
const told: usize = memory.data(4 * 4 * 80, 16);
let exact: bool = false;
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
  exact = moving && frames == 4 && anyMoves;
  if (!exact) return;
  for (let at: usize = 0; at < 64; at += 16) {
    const to = told + (at >> 4) * 320, first = current + at;
    turned(first + its.middles, to);
    turned(first + its.highs, to + 16);
    turned(first + its.corners, to + 32);
    turned(first + its.bass, to + 48);
    turned(first + its.bassCorners, to + 64);
    for (let i: usize = 0; i < 320; i += 80) {
      v128.store(to + i, f32x4.sub(v128.load(to + i), v128.load(to + i, 16)));
      v128.store(to + i, f32x4.sub(v128.load(to + i, 48), one), 48);
    }
  }
}
// Four frames of each of four lines, as four lines of each of four frames.
function turned(from: usize, to: usize): void {
  const p = fourOf(from), q = fourOf(from + 4), r = fourOf(from + 8), s = fourOf(from + 12);
  const l = low(p, q), h = high(p, q), m = low(r, s), n = high(r, s);
  v128.store(to, first(l, m));
  v128.store(to, second(l, m), 80);
  v128.store(to, first(h, n), 160);
  v128.store(to, second(h, n), 240);
}
function move(to: usize, frame: usize): void {
  if (exact) {
    memory.copy(to, told + ((to - coefficients) / COEFFICIENTS) * 320 + frame * 80, 80);
    return;
  }
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

// What the lines give, a block of each; where they are read, and were before their walls moved.
export const lines: usize = memory.data(16 * 512, 16);
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
function deepen(x: v128, at: usize, frame: usize): v128 {
  if (moving) move(at, frame);
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

// A step of a corner filter, with no more than a product and a sum from frame to frame: s' = (1 - 2 c) s + 2 c x, and of mids less
// highs d and highs h, h x + d lows = (h + d c) x + d (1 - c) s.
// @ts-ignore: decorator
@inline
function next(s: v128, x: v128, keeps: v128, takes: v128): v128 {
  return f32x4.add(f32x4.mul(keeps, s), f32x4.mul(takes, x));
}
/** Reads eight lines, through their filters, over a part of a block, in bytes. */
export function eight(k: usize, state: usize, from: usize, end: usize): void {
  if (crossing || deep || moving) {
    fourSlowly(k, state, from, end);
    fourSlowly(k + 4, state, from, end);
    return;
  }
  const one = f32x4.splat(1);
  const first4 = coefficients + (k >> 2) * COEFFICIENTS, last4 = first4 + COEFFICIENTS;
  const c = v128.load(first4, 32), C = v128.load(last4, 32);
  const takes = f32x4.add(c, c), Takes = f32x4.add(C, C);
  const keeps = f32x4.sub(one, takes), Keeps = f32x4.sub(one, Takes);
  const dry = f32x4.add(v128.load(first4, 16), f32x4.mul(v128.load(first4), c));
  const Dry = f32x4.add(v128.load(last4, 16), f32x4.mul(v128.load(last4), C));
  const wet = f32x4.mul(v128.load(first4), f32x4.sub(one, c)), Wet = f32x4.mul(v128.load(last4), f32x4.sub(one, C));
  const its = reads + (k << 2), to = lines + (k << 9);
  let s0 = v128.load(state + S_TOP + (k << 2)), S0 = v128.load(state + S_TOP + (k << 2), 16);
  for (let at = from; at < end; at += 16) {
    const p = v128.load(load<usize>(its) + at), q = v128.load(load<usize>(its, 4) + at);
    const r = v128.load(load<usize>(its, 8) + at), s = v128.load(load<usize>(its, 12) + at);
    const l = low(p, q), h = high(p, q), m = low(r, s), n = high(r, s);
    const x0 = first(l, m), x1 = second(l, m), x2 = first(h, n), x3 = second(h, n);
    const s1 = next(s0, x0, keeps, takes), s2 = next(s1, x1, keeps, takes), s3 = next(s2, x2, keeps, takes);
    const y0 = next(s0, x0, wet, dry), y1 = next(s1, x1, wet, dry), y2 = next(s2, x2, wet, dry), y3 = next(s3, x3, wet, dry);
    s0 = next(s3, x3, keeps, takes);
    const l2 = low(y0, y1), h2 = high(y0, y1), m2 = low(y2, y3), n2 = high(y2, y3);
    v128.store(to + at, first(l2, m2));
    v128.store(to + at, second(l2, m2), 512);
    v128.store(to + at, first(h2, n2), 1024);
    v128.store(to + at, second(h2, n2), 1536);
    const P = v128.load(load<usize>(its, 16) + at), Q = v128.load(load<usize>(its, 20) + at);
    const R = v128.load(load<usize>(its, 24) + at), S = v128.load(load<usize>(its, 28) + at);
    const L = low(P, Q), H = high(P, Q), M = low(R, S), N = high(R, S);
    const X0 = first(L, M), X1 = second(L, M), X2 = first(H, N), X3 = second(H, N);
    const S1 = next(S0, X0, Keeps, Takes), S2 = next(S1, X1, Keeps, Takes), S3 = next(S2, X2, Keeps, Takes);
    const Y0 = next(S0, X0, Wet, Dry), Y1 = next(S1, X1, Wet, Dry), Y2 = next(S2, X2, Wet, Dry), Y3 = next(S3, X3, Wet, Dry);
    S0 = next(S3, X3, Keeps, Takes);
    const L2 = low(Y0, Y1), H2 = high(Y0, Y1), M2 = low(Y2, Y3), N2 = high(Y2, Y3);
    v128.store(to + at, first(L2, M2), 2048);
    v128.store(to + at, second(L2, M2), 2560);
    v128.store(to + at, first(H2, N2), 3072);
    v128.store(to + at, second(H2, N2), 3584);
  }
  v128.store(state + S_TOP + (k << 2), flush(s0));
  v128.store(state + S_TOP + (k << 2), flush(S0), 16);
}
function fourSlowly(k: usize, state: usize, from: usize, end: usize): void {
  const its = coefficients + (k >> 2) * COEFFICIENTS, to = lines + (k << 9);
  bass = v128.load(state + S_BASS + (k << 2));
  top = v128.load(state + S_TOP + (k << 2));
  for (let at = from; at < end; at += 16) {
    const p = line(k, at), q = line(k + 1, at), r = line(k + 2, at), s = line(k + 3, at);
    const l = low(p, q), h = high(p, q), m = low(r, s), n = high(r, s);
    const x0 = deepen(first(l, m), its, 0), x1 = deepen(second(l, m), its, 1);
    const x2 = deepen(first(h, n), its, 2), x3 = deepen(second(h, n), its, 3);
    const l2 = low(x0, x1), h2 = high(x0, x1), m2 = low(x2, x3), n2 = high(x2, x3);
    v128.store(to + at, first(l2, m2));
    v128.store(to + at, second(l2, m2), 512);
    v128.store(to + at, first(h2, n2), 1024);
    v128.store(to + at, second(h2, n2), 1536);
  }
  v128.store(state + S_BASS + (k << 2), flush(bass));
  v128.store(state + S_TOP + (k << 2), flush(top));
}

// Of the eight pairs: cosines and sines of four frames, and of how far they turn in those.
const turning: usize = memory.data(8 * 64, 16);
/** Where the pairs stand: their matrix keeps its energy with a quarter of sums and differences, so they are quarters too. */
export function turn(state: usize, current: usize): void {
  const slowest = f64(load<f32>(current, its.turns));
  for (let k: usize = 0; k < 8; k++) {
    const rate: f64 = slowest * (1 + 0.57 * f64(k)) * ((k & 1) != 0 ? -1 : 1);
    let phase = load<f64>(state + S_PHASES + (k << 3));
    const at = turning + (k << 6);
    let c = 0.25 * Math.cos(phase + f64(k)), s = 0.25 * Math.sin(phase + f64(k));
    const dc = Math.cos(rate), ds = Math.sin(rate);
    for (let i: usize = 0; i < 16; i += 4) {
      store<f32>(at + i, f32(c));
      store<f32>(at + i, f32(s), 16);
      const next = c * dc - s * ds;
      s = s * dc + c * ds;
      c = next;
    }
    const twice = 2 * dc * ds, less = 1 - 2 * ds * ds;
    v128.store(at, f32x4.splat(f32(1 - 2 * twice * twice)), 32);
    v128.store(at, f32x4.splat(f32(2 * twice * less)), 48);
    phase += rate * f64(frames);
    if (abs(phase) > 6.283185307179586) phase -= phase > 0 ? 6.283185307179586 : -6.283185307179586;
    store<f64>(state + S_PHASES + (k << 3), phase);
  }
}

/** Turns pairs k, k + 8 and k + 4, k + 12 over the next part of a block, and makes sums and differences of the four. */
export function mixFour(k: usize, from: usize, end: usize): void {
  const its = turning + (k << 6), its4 = its + 256;
  let c = v128.load(its), s = v128.load(its, 16), c4 = v128.load(its4), s4 = v128.load(its4, 16);
  const dc = v128.load(its, 32), ds = v128.load(its, 48), dc4 = v128.load(its4, 32), ds4 = v128.load(its4, 48);
  for (let at = lines + (k << 9) + from; at < lines + (k << 9) + end; at += 16) {
    const a = v128.load(at), b = v128.load(at, 4096), e = v128.load(at, 2048), f = v128.load(at, 6144);
    const a1 = f32x4.sub(f32x4.mul(c, a), f32x4.mul(s, b)), b1 = f32x4.add(f32x4.mul(s, a), f32x4.mul(c, b));
    const e1 = f32x4.sub(f32x4.mul(c4, e), f32x4.mul(s4, f)), f1 = f32x4.add(f32x4.mul(s4, e), f32x4.mul(c4, f));
    const p = f32x4.add(a1, e1), q = f32x4.sub(a1, e1), r = f32x4.add(b1, f1), t = f32x4.sub(b1, f1);
    v128.store(at, f32x4.add(p, r));
    v128.store(at, f32x4.add(q, t), 2048);
    v128.store(at, f32x4.sub(p, r), 4096);
    v128.store(at, f32x4.sub(q, t), 6144);
    const next = f32x4.sub(f32x4.mul(c, dc), f32x4.mul(s, ds)), next4 = f32x4.sub(f32x4.mul(c4, dc4), f32x4.mul(s4, ds4));
    s = f32x4.add(f32x4.mul(s, dc), f32x4.mul(c, ds));
    s4 = f32x4.add(f32x4.mul(s4, dc4), f32x4.mul(c4, ds4));
    c = next;
    c4 = next4;
  }
  v128.store(its, c);
  v128.store(its, s, 16);
  v128.store(its4, c4);
  v128.store(its4, s4, 16);
}
/**
 * The rest of the matrix, for four lines that stand together, into which what is new joins with signs of their own: x and y, then
 * by the last two lines in turn, and all of it turned round.
 */
// @ts-ignore: decorator
@inline
export function feedFour(
  k: usize, into: usize, apart: usize, x: usize, y: usize, over: bool, under: bool, flip: bool, from: usize, end: usize,
): void {
  const to0 = into + k * apart, to1 = to0 + apart, to2 = to1 + apart, to3 = to2 + apart;
  for (let i = from; i < end; i += 16) {
    const at = lines + (k << 9) + i;
    const a = v128.load(at), b = v128.load(at, 512), c = v128.load(at, 1024), d = v128.load(at, 1536);
    const p = f32x4.add(a, b), q = f32x4.sub(a, b), r = f32x4.add(c, d), s = f32x4.sub(c, d);
    let xs = v128.load(x + i), ys = v128.load(y + i);
    if (over) xs = f32x4.neg(xs);
    if (under) ys = f32x4.neg(ys);
    const u = f32x4.add(p, r), v = f32x4.add(q, s), w = f32x4.sub(p, r), z = f32x4.sub(q, s);
    v128.store(to0 + i, flush(f32x4.add(u, xs)));
    v128.store(to1 + i, flush(flip ? f32x4.sub(v, ys) : f32x4.add(v, ys)));
    v128.store(to2 + i, flush(flip ? f32x4.add(w, xs) : f32x4.sub(w, xs)));
    v128.store(to3 + i, flush(f32x4.add(z, ys)));
  }
}
// What is heard of each line: two rows of the matrix that have nothing in common.
export const heard: usize = memory.data(1024, 16);
export function hear(from: usize, end: usize): void {
  for (let i = from; i < end; i += 16) {
    let l = f32x4.splat(0), r = l;
    for (let k: usize = 0; k < 4; k++) {
      const p = lines + (k << 11) + i;
      const a = v128.load(p), b = v128.load(p, 512), c = v128.load(p, 1024), d = v128.load(p, 1536);
      const x = f32x4.sub(f32x4.add(a, b), f32x4.add(c, d)), y = f32x4.sub(f32x4.sub(a, b), f32x4.sub(c, d));
      l = (k & 1) != 0 ? f32x4.sub(l, x) : f32x4.add(l, x);
      r = k > 1 ? f32x4.sub(r, y) : f32x4.add(r, y);
    }
    v128.store(heard + i, l);
    v128.store(heard + i, r, 512);
  }
}
