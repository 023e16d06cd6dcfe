// A feedback delay network of sixteen lines, four frames of a line to a vector; the absorbent filters, which go from frame to
// frame, take four lines to a vector. The numbers of its gains stand in core/processors/reverb.ts and spaces.ts, which also size
// the state; a test holds the two together.
import * as its from '../../../build/engine/parameters/reverb';
import { BLOCK, BLOCK_BYTES } from '../../../build/engine/layout';
import { flush, ringOf } from '../math';
import { frames, oneBytes, perFrame } from '../span';

const LINES: usize = 16;
const DIFFUSERS: usize = 8;
const TAPS: usize = 20;
/** Numbers of a geometry, and bytes that it takes. */
const NUMBERS: usize = 105;
const GEOMETRY: usize = 432;
// Where they stand in it, in bytes.
const G_LINES: usize = 4, G_DIFFUSERS: usize = 68, G_TAPS: usize = 100, G_GAINS: usize = 260;

// State: what a zeroed one says is that it sleeps.
const S_POSITION: usize = 0, S_AWAKE: usize = 4, S_LEFT: usize = 8, S_QUIET: usize = 12;
const S_LOW: usize = 16, S_HIGH: usize = 20, S_LEVEL: usize = 24, S_DUCKED: usize = 28;
const S_CUTS: usize = 32, S_PHASES: usize = 64, S_TOP: usize = 128, S_BASS: usize = 192, S_GAIN: usize = 256;
const S_NEW: usize = 320, S_OLD: usize = S_NEW + GEOMETRY;
const S_RINGS: usize = S_OLD + GEOMETRY;

function lineFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.33 * f64(sampleRate)) + 4));
}
function preDelayFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.25 * f64(sampleRate)) + 4));
}
function diffuserFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.02496 * f64(sampleRate)) + 4));
}
function tapFrames(sampleRate: i32): i32 {
  return ringOf(Math.max(BLOCK, Math.ceil(0.26 * f64(sampleRate)) + 4));
}

export const FINEST = 4;
export function bytes(sampleRate: i32): i32 {
  return i32(S_RINGS) + 4 * (
    16 * (lineFrames(sampleRate) + BLOCK) + 2 * (preDelayFrames(sampleRate) + BLOCK) +
    8 * (diffuserFrames(sampleRate) + BLOCK) + 2 * (tapFrames(sampleRate) + BLOCK)
  );
}

/** What is not told from silence any more: -180 dBFS. */
const SILENT: f32 = 1e-9;

// Where a block begins in a ring, counted in frames. One that would stand at the ring's start stands behind its end instead, and
// is put at the start too when it is whole (see `wrap`): so no block that is read or written falls apart.
// @ts-ignore: decorator
@inline
function placeOf(position: i32, size: i32): i32 {
  const place = position & (size - 1) & ~127;
  return place == 0 ? size : place;
}
// Where the block stands that lies so many frames back.
// @ts-ignore: decorator
@inline
function back(ring: usize, place: i32, delay: i32, size: i32): usize {
  const from = place - delay;
  return ring + (<usize>(from < 0 ? from + size : from) << 2);
}
function wrap(ring: usize, place: i32, size: i32): void {
  if (place == size) memory.copy(ring, ring + (<usize>size << 2), BLOCK_BYTES);
}
// @ts-ignore: decorator
@inline
function framesAt(geometry: usize, at: usize): i32 {
  return i32(load<f32>(geometry + at));
}

// What of the old walls is heard yet, a value a frame: sixteen rows, each of which gives way in a quarter of the time, one after
// the other, so that never much of what sounds goes through two places at once and cancels there.
const weights: usize = memory.data(16 * 512, 16);
let crossing: bool = false;
// Bytes by which this part of the block stands behind its start.
let offset: usize = 0;

function weigh(state: usize, moves: f32): void {
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
      store<f32>(weights + (k << 9) + i, t * t * t * (<f32>10 + t * (<f32>6 * t - <f32>15)));
    }
  }
  store<f32>(state, max(<f32>0, from - <f32>frames), S_LEFT);
}
// Between what is read at the new place and at the old one. @param row of the weights
// @ts-ignore: decorator
@inline
function across(now: v128, old: usize, at: usize, row: usize): v128 {
  return f32x4.add(now, f32x4.mul(v128.load(weights + (row << 9) + at), f32x4.sub(v128.load(old + at), now)));
}

// One allpass in a ring of its own, in place.
function allpass(block: usize, ring: usize, place: i32, size: i32, length: i32, before: i32, row: usize): void {
  const g = f32x4.splat(0.65);
  const from = back(ring, place, length, size) + offset, old = back(ring, place, before, size) + offset;
  const to = ring + (<usize>place << 2) + offset;
  for (let at: usize = 0; at < oneBytes; at += 16) {
    let delayed = v128.load(from + at);
    if (crossing) delayed = across(delayed, old, at, row);
    const v = flush(f32x4.sub(v128.load(block + at), f32x4.mul(delayed, g)));
    v128.store(to + at, v);
    v128.store(block + at, f32x4.add(delayed, f32x4.mul(v, g)));
  }
}

// The diffused signal of both sides, and the first reflections.
const diffused: usize = memory.data(1024, 16);
const walls: usize = memory.data(1024, 16);
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
function reflect(to: usize, side: usize, geometry: usize, was: usize, left: usize, right: usize, place: i32, size: i32): void {
  memory.fill(to, 0, oneBytes);
  const even = side == 0 ? left : right, odd = side == 0 ? right : left;
  for (let k: usize = 0; k < TAPS; k += 4) {
    const taps = G_TAPS + ((side * TAPS + k) << 2);
    if (!crossing) {
      addFour(to, geometry + taps, even, odd, place, size);
      continue;
    }
    memory.fill(now, 0, oneBytes);
    memory.fill(before, 0, oneBytes);
    addFour(now, geometry + taps, even, odd, place, size);
    addFour(before, was + taps, even, odd, place, size);
    for (let at: usize = 0; at < oneBytes; at += 16)
      v128.store(to + at, f32x4.add(v128.load(to + at), across(v128.load(now + at), before, at, k * 3 / 4)));
  }
}

// A cut of 12 dB an octave, one frame: the state-variable filter of core/processors/filter.ts. @returns what is above, or below
// @ts-ignore: decorator
@inline
function cut(memoryAt: usize, x: f32, g: f32, low: bool): f32 {
  const k: f32 = 1.4142135;
  const s1 = load<f32>(memoryAt), s2 = load<f32>(memoryAt, 4);
  const a1: f32 = <f32>1 / (<f32>1 + g * (g + k)), a2: f32 = g * a1;
  const v3: f32 = x - s2;
  const v1: f32 = a1 * s1 + a2 * v3, v2: f32 = s2 + a2 * s1 + g * a2 * v3;
  store<f32>(memoryAt, v1 + v1 - s1);
  store<f32>(memoryAt, v2 + v2 - s2, 4);
  return low ? x - k * v1 - v2 : v2;
}
// The greatest that a cut is; beyond it, and below 4 Hz, it cuts nothing.
const MOST: f32 = 6.3;
/** Where a cut's g stands after this part of the block: it goes by octaves. */
function followed(now: f32, target: f32, none: f32, kept: f32): f32 {
  if (now == target) return now;
  const from: f32 = now == 0 ? none : now, to: f32 = target == 0 ? none : target;
  const next = Mathf.exp(Mathf.log(to) + kept * (Mathf.log(from) - Mathf.log(to)));
  return abs(next / to - 1) < 0.001 ? target : next;
}
function cuts(left: usize, right: usize, state: usize, current: usize, kept: f32, sampleRate: i32): void {
  const least: f32 = <f32>12.6 / <f32>sampleRate;
  const low0 = load<f32>(state, S_LOW), high0 = load<f32>(state, S_HIGH);
  const low1 = followed(low0, load<f32>(current, its.lowCut), least, kept);
  const high1 = followed(high0, load<f32>(current, its.highCut), MOST, kept);
  store<f32>(state, low1, S_LOW);
  store<f32>(state, high1, S_HIGH);
  const at = state + S_CUTS;
  if (low0 != 0 || low1 != 0) {
    let g = low0 == 0 ? least : low0;
    const step: f32 = perFrame * ((low1 == 0 ? least : low1) - g);
    for (let i: usize = 0; i < oneBytes; i += 4) {
      g += step;
      // What hardly cuts is heard beside what is not cut, so that it comes and goes without a step.
      const share: f32 = min(<f32>1, (g / least - 1) * <f32>0.25);
      const l = load<f32>(left + i), r = load<f32>(right + i);
      store<f32>(left + i, l + share * (cut(at, l, g, true) - l));
      store<f32>(right + i, r + share * (cut(at + 8, r, g, true) - r));
    }
  } else memory.fill(at, 0, 16);
  if (high0 != 0 || high1 != 0) {
    let g = high0 == 0 ? MOST : high0;
    const step: f32 = perFrame * ((high1 == 0 ? MOST : high1) - g);
    if (high0 == 0) {
      store<f32>(at, load<f32>(left), 20);
      store<f32>(at, load<f32>(right), 28);
    }
    for (let i: usize = 0; i < oneBytes; i += 4) {
      g += step;
      const share: f32 = min(<f32>1, <f32>3 * (MOST / g - 1));
      const l = load<f32>(left + i), r = load<f32>(right + i);
      store<f32>(left + i, l + share * (cut(at + 16, l, g, false) - l));
      store<f32>(right + i, r + share * (cut(at + 24, r, g, false) - r));
    }
  } else memory.fill(at + 16, 0, 16);
}

// How far ducking turns down, a value a frame. @returns whether it does
const ducks: usize = memory.data(512, 16);
function ducking(left: usize, right: usize, state: usize, previous: usize, current: usize, sampleRate: i32): bool {
  let duck = load<f32>(previous, its.duck);
  const step: f32 = perFrame * (load<f32>(current, its.duck) - duck);
  let ducked = load<f32>(state, S_DUCKED);
  if (duck == 0 && step == 0 && ducked == 0) {
    store<f32>(state, 0, S_LEVEL);
    return false;
  }
  let level = load<f32>(state, S_LEVEL);
  const rises = load<f32>(current, its.rises), falls = load<f32>(current, its.falls);
  const rounds: f32 = <f32>1 / max(<f32>1, <f32>0.001 * f32(sampleRate));
  for (let i: usize = 0; i < oneBytes; i += 4) {
    duck += step;
    const x = max(abs(load<f32>(left + i)), abs(load<f32>(right + i)));
    level = x + (x > level ? rises : falls) * (level - x);
    let takes: f32 = 0;
    // From -40 dB on, all of it at -20 dB.
    if (duck > 0 && level > 0.01) takes = <f32>1 - Mathf.pow(10, -duck * min(<f32>1, Mathf.log10(level * 100)) * <f32>0.05);
    ducked += rounds * (takes - ducked);
    store<f32>(ducks + i, <f32>1 - ducked);
  }
  store<f32>(state, level, S_LEVEL);
  store<f32>(state, abs(ducked) < 1e-6 ? 0 : ducked, S_DUCKED);
  return true;
}

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
function workOut(previous: usize, current: usize): void {
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
const lines: usize = memory.data(256, 16);
const reads: usize = memory.data(64, 16);
const olds: usize = memory.data(64, 16);

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
function four(k: usize, at: usize, state: usize): void {
  const p = line(k, at), q = line(k + 1, at), r = line(k + 2, at), s = line(k + 3, at);
  const its = coefficients + (k >> 2) * COEFFICIENTS;
  const l = low(p, q), h = high(p, q), m = low(r, s), n = high(r, s);
  let x0 = first(l, m), x1 = second(l, m), x2 = first(h, n), x3 = second(h, n);
  bass = v128.load(state + S_BASS + (k << 2));
  top = v128.load(state + S_TOP + (k << 2));
  if (deep || moving) {
    x0 = deepen(x0, its);
    x1 = deepen(x1, its);
    x2 = deepen(x2, its);
    x3 = deepen(x3, its);
  } else {
    x0 = absorb(x0, its);
    x1 = absorb(x1, its);
    x2 = absorb(x2, its);
    x3 = absorb(x3, its);
  }
  v128.store(state + S_BASS + (k << 2), flush(bass));
  v128.store(state + S_TOP + (k << 2), flush(top));
  const to = lines + (k << 4);
  const l2 = low(x0, x1), h2 = high(x0, x1), m2 = low(x2, x3), n2 = high(x2, x3);
  v128.store(to, first(l2, m2));
  v128.store(to, second(l2, m2), 16);
  v128.store(to, first(h2, n2), 32);
  v128.store(to, second(h2, n2), 48);
}

// Of the eight pairs: cosines and sines, what they are four frames on, and of how far they turn in those.
const turning: usize = memory.data(192, 16);
function turn(state: usize, current: usize): void {
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
function turnOn(): void {
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
function mixFour(k: usize): void {
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
function feedFour(k: usize, into: usize, apart: usize, x: v128, y: v128, flip: bool): void {
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

function silent(block: usize): bool {
  let any = v128.load(block);
  for (let at: usize = 16; at < oneBytes; at += 16) any = v128.or(any, v128.load(block + at));
  return !v128.any_true(v128.and(any, i32x4.splat(0x7fffffff)));
}
function peak(block: usize): f32 {
  let m = f32x4.splat(0);
  for (let at: usize = 0; at < oneBytes; at += 16) m = f32x4.pmax(m, f32x4.abs(v128.load(block + at)));
  return max(
    max(f32x4.extract_lane(m, 0), f32x4.extract_lane(m, 1)), max(f32x4.extract_lane(m, 2), f32x4.extract_lane(m, 3)),
  );
}

// Gains of what is heard, at each of four frames, and how far they go in four.
const gains: usize = memory.data(128, 16);
function gain(n: usize, from: f32, to: f32): void {
  const at = gains + (n << 4);
  const step: f32 = perFrame * (to - from);
  v128.store(at, f32x4.add(f32x4.splat(from), f32x4.mul(f32x4.splat(step), f32x4(1, 2, 3, 4))));
  v128.store(at, f32x4.splat(4 * step), 64);
}

/** Takes up another space or size, once the last has taken its place. */
function settle(state: usize, current: usize): void {
  const asked = current + its.preDelay;
  if (load<i32>(state, S_AWAKE) == 0) {
    memory.copy(state + S_NEW, asked, NUMBERS << 2);
    store<f32>(state, 0, S_LEFT);
    store<f32>(state, load<f32>(current, its.lowCut), S_LOW);
    store<f32>(state, load<f32>(current, its.highCut), S_HIGH);
    store<f32>(state, load<f32>(current, its.level), S_GAIN);
    store<i32>(state, 1, S_AWAKE);
    return;
  }
  if (load<f32>(state, S_LEFT) > 0 || memory.compare(state + S_NEW, asked, NUMBERS << 2) == 0) return;
  memory.copy(state + S_OLD, state + S_NEW, NUMBERS << 2);
  memory.copy(state + S_NEW, asked, NUMBERS << 2);
  store<f32>(state, load<f32>(current, its.moves), S_LEFT);
}

/** Puts the wet signal in place of the dry. */
export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const other = channels == 2 ? buffer + BLOCK_BYTES : buffer;
  const quiet = silent(buffer) && silent(other);
  if (quiet && load<i32>(state, S_AWAKE) == 0) return;
  settle(state, current);
  weigh(state, load<f32>(current, its.moves));

  const size = lineFrames(sampleRate), preSize = preDelayFrames(sampleRate);
  const difSize = diffuserFrames(sampleRate), tapSize = tapFrames(sampleRate);
  const apart = <usize>(size + BLOCK) << 2, preBytes = <usize>(preSize + BLOCK) << 2;
  const difBytes = <usize>(difSize + BLOCK) << 2, tapBytes = <usize>(tapSize + BLOCK) << 2;
  const rings = state + S_RINGS;
  const preL = rings + apart * LINES, preR = preL + preBytes;
  const dif = preR + preBytes;
  const tapL = dif + difBytes * DIFFUSERS, tapR = tapL + tapBytes;

  const position = load<i32>(state, S_POSITION);
  offset = <usize>(position & 127) << 2;
  const place = placeOf(position, size), prePlace = placeOf(position, preSize);
  const difPlace = placeOf(position, difSize), tapPlace = placeOf(position, tapSize);
  const geometry = state + S_NEW, was = state + S_OLD;
  const kept: f32 = <f32>1 - (<f32>1 - load<f32>(current, its.follows)) * <f32>frames / 128;
  const ducked = ducking(buffer, other, state, previous, current, sampleRate);

  // What comes in, cut, waits for its pre-delay.
  const inL = preL + (<usize>prePlace << 2) + offset, inR = preR + (<usize>prePlace << 2) + offset;
  memory.copy(inL, buffer, oneBytes);
  memory.copy(inR, other, oneBytes);
  cuts(inL, inR, state, current, kept, sampleRate);
  for (let side: usize = 0; side < 2; side++) {
    const ring = side == 0 ? preL : preR, to = diffused + (side << 9);
    memory.copy(to, back(ring, prePlace, framesAt(geometry, 0), preSize) + offset, oneBytes);
    if (crossing) {
      const old = back(ring, prePlace, framesAt(was, 0), preSize) + offset;
      for (let at: usize = 0; at < oneBytes; at += 16) v128.store(to + at, across(v128.load(to + at), old, at, 8));
    }
    for (let k = side << 2; k < (side << 2) + 4; k++)
      allpass(
        to, dif + difBytes * k, difPlace, difSize,
        framesAt(geometry, G_DIFFUSERS + (k << 2)), framesAt(was, G_DIFFUSERS + (k << 2)), (k & 3) * 5,
      );
    memory.copy((side == 0 ? tapL : tapR) + (<usize>tapPlace << 2) + offset, to, oneBytes);
  }
  reflect(walls, 0, geometry, was, tapL, tapR, tapPlace, tapSize);
  reflect(walls + 512, 1, geometry, was, tapL, tapR, tapPlace, tapSize);

  for (let k: usize = 0; k < LINES; k++) {
    const ring = rings + apart * k;
    store<usize>(reads + (k << 2), back(ring, place, framesAt(geometry, G_LINES + (k << 2)), size) + offset);
    store<usize>(olds + (k << 2), back(ring, place, framesAt(was, G_LINES + (k << 2)), size) + offset);
  }
  workOut(previous, current);
  turn(state, current);
  const level0 = load<f32>(state, S_GAIN), wanted = load<f32>(current, its.level);
  let level1: f32 = wanted + kept * (level0 - wanted);
  if (abs(level1 - wanted) < wanted * <f32>1e-5) level1 = wanted;
  store<f32>(state, level1, S_GAIN);
  gain(0, level0, level1);
  gain(1, load<f32>(previous, its.early) * level0, load<f32>(current, its.early) * level1);
  gain(2, load<f32>(previous, its.own), load<f32>(current, its.own));
  gain(3, load<f32>(previous, its.other), load<f32>(current, its.other));
  const deltas = gains + 64;
  let tail = v128.load(gains), early = v128.load(gains, 16), own = v128.load(gains, 32), cross = v128.load(gains, 48);
  const into = rings + (<usize>place << 2) + offset;
  const norm = f32x4.splat(0.25);
  for (let at: usize = 0; at < oneBytes; at += 16) {
    four(0, at, state);
    four(4, at, state);
    four(8, at, state);
    four(12, at, state);
    // Two rows of the matrix that have nothing in common.
    let l = f32x4.splat(0), r = f32x4.splat(0);
    for (let k: usize = 0; k < 4; k++) {
      const p = lines + (k << 6);
      const a = v128.load(p), b = v128.load(p, 16), c = v128.load(p, 32), d = v128.load(p, 48);
      const x = f32x4.sub(f32x4.add(a, b), f32x4.add(c, d)), y = f32x4.sub(f32x4.sub(a, b), f32x4.sub(c, d));
      l = (k & 1) != 0 ? f32x4.sub(l, x) : f32x4.add(l, x);
      r = k > 1 ? f32x4.sub(r, y) : f32x4.add(r, y);
    }
    turnOn();
    mixFour(0);
    mixFour(1);
    mixFour(2);
    mixFour(3);
    const x = v128.load(diffused + at), y = v128.load(diffused + at, 512);
    feedFour(0, into + at, apart, x, y, false);
    feedFour(4, into + at, apart, x, y, true);
    feedFour(8, into + at, apart, f32x4.neg(x), y, false);
    feedFour(12, into + at, apart, x, f32x4.neg(y), true);

    l = f32x4.add(f32x4.mul(tail, f32x4.mul(norm, l)), f32x4.mul(early, v128.load(walls + at)));
    r = f32x4.add(f32x4.mul(tail, f32x4.mul(norm, r)), f32x4.mul(early, v128.load(walls + at, 512)));
    let outL = f32x4.add(f32x4.mul(own, l), f32x4.mul(cross, r)), outR = f32x4.add(f32x4.mul(own, r), f32x4.mul(cross, l));
    if (ducked) {
      outL = f32x4.mul(outL, v128.load(ducks + at));
      outR = f32x4.mul(outR, v128.load(ducks + at));
    }
    tail = f32x4.add(tail, v128.load(deltas));
    early = f32x4.add(early, v128.load(deltas, 16));
    own = f32x4.add(own, v128.load(deltas, 32));
    cross = f32x4.add(cross, v128.load(deltas, 48));
    if (channels == 2) {
      v128.store(buffer + at, outL);
      v128.store(other + at, outR);
    } else v128.store(buffer + at, f32x4.mul(f32x4.splat(0.70710678), f32x4.add(outL, outR)));
  }
  if ((position & 127) + frames == BLOCK) {
    for (let k: usize = 0; k < LINES; k++) wrap(rings + apart * k, place, size);
    for (let k: usize = 0; k < DIFFUSERS; k++) wrap(dif + difBytes * k, difPlace, difSize);
    wrap(preL, prePlace, preSize);
    wrap(preR, prePlace, preSize);
    wrap(tapL, tapPlace, tapSize);
    wrap(tapR, tapPlace, tapSize);
  }
  store<i32>(state, position + frames, S_POSITION);

  // Once nothing has been heard for as long as anything can wait in it, it sleeps.
  if (!quiet || peak(buffer) > SILENT || peak(other) > SILENT) {
    store<i32>(state, 0, S_QUIET);
    return;
  }
  const waited = load<i32>(state, S_QUIET) + frames;
  store<i32>(state, waited, S_QUIET);
  if (waited > size + preSize + tapSize) memory.fill(state, 0, bytes(sampleRate));
}
