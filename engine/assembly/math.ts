// Numbers of four lanes at once: decibels, gains, sines, and what makes a filter section run.

// @ts-ignore: decorator
@inline
export function splat(x: f32): v128 {
  return f32x4.splat(x);
}

// Rounding the smallest values to zero keeps what dies away out of denormal numbers, which cost a hundred times as much.
// @ts-ignore: decorator
@inline
export function flush(v: v128): v128 {
  return v128.and(v, f32x4.gt(f32x4.abs(v), k(16)));
}

// @ts-ignore: decorator
@inline
export function flushOne(x: f32): f32 {
  return abs(x) > 1e-16 ? x : 0;
}

// Constants stand in memory, four times each, and are loaded where they are used: compilers of the host build a constant
// vector anew at every use, which costs more than the arithmetic.
const K: usize = memory.data<f32>([
  // 0..6: log2(1 + f) / f on sqrt(1/2) - 1 .. sqrt(2) - 1, our own minimax fit, error of the decibels below 1e-5
  1.44271348, 1.44271348, 1.44271348, 1.44271348,
  -0.721131858, -0.721131858, -0.721131858, -0.721131858,
  0.47934801, 0.47934801, 0.47934801, 0.47934801,
  -0.367489982, -0.367489982, -0.367489982, -0.367489982,
  0.322154904, 0.322154904, 0.322154904, 0.322154904,
  -0.206591856, -0.206591856, -0.206591856, -0.206591856,
  3.01029995, 3.01029995, 3.01029995, 3.01029995,
  // 7..12: 2^f on -1/2 .. 1/2, our own minimax fit, relative error below 1e-7
  1, 1, 1, 1,
  0.693146967, 0.693146967, 0.693146967, 0.693146967,
  0.240221197, 0.240221197, 0.240221197, 0.240221197,
  0.0555071327, 0.0555071327, 0.0555071327, 0.0555071327,
  0.00967554148, 0.00967554148, 0.00967554148, 0.00967554148,
  0.0013276472, 0.0013276472, 0.0013276472, 0.0013276472,
  // 13: 1.5 * 2^23, which rounds what is added to it to a whole number; 14: log2(10)/20; 15: the lowest power of two
  12582912, 12582912, 12582912, 12582912,
  0.16609640474, 0.16609640474, 0.16609640474, 0.16609640474,
  -120, -120, -120, -120,
  // 16: the lowest power that is told from silence; 17: 1; 18: 2 / ln 2; 19: 2; 20: the highest power of two
  1e-16, 1e-16, 1e-16, 1e-16,
  1, 1, 1, 1,
  2.88539008, 2.88539008, 2.88539008, 2.88539008,
  2, 2, 2, 2,
  120, 120, 120, 120,
], 16);
// 0: bits of sqrt(1/2).
const I: usize = memory.data<i32>([0x3f3504f3, 0x3f3504f3, 0x3f3504f3, 0x3f3504f3], 16);

/** One of the constants above. */
// @ts-ignore: decorator
@inline
export function k(n: usize): v128 {
  return v128.load(K + (n << 4));
}

/** Bits of sqrt(1/2), from which exponents are counted. */
// @ts-ignore: decorator
@inline
export function exponentBits(): v128 {
  return v128.load(I);
}

// log2(x) of a power not below 1e-16: the exponent by its bits, a polynomial of the rest, by Estrin's scheme: what waits for what is
// short. Its constants are those above, which loops keep at hand: 0 to 5, the bits, 17.
// @ts-ignore: decorator
@inline
export function octavesBy(
  x: v128, bits: v128, one: v128, c0: v128, c1: v128, c2: v128, c3: v128, c4: v128, c5: v128,
): v128 {
  const exponent = i32x4.shr_s(i32x4.sub(x, bits), 23);
  const m = f32x4.sub(i32x4.sub(x, i32x4.shl(exponent, 23)), one);
  const n = f32x4.mul(m, m);
  const high = f32x4.add(f32x4.add(c2, f32x4.mul(m, c3)), f32x4.mul(n, f32x4.add(c4, f32x4.mul(m, c5))));
  const p = f32x4.add(f32x4.add(c0, f32x4.mul(m, c1)), f32x4.mul(n, high));
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(m, p));
}
// log2(x) of a power.
// @ts-ignore: decorator
@inline
export function powerOctaves(x: v128): v128 {
  return octavesBy(f32x4.pmax(x, k(16)), exponentBits(), k(17), k(0), k(1), k(2), k(3), k(4), k(5));
}
// 10 log10(x) of a power. A test holds the result against Math.log10.
// @ts-ignore: decorator
@inline
export function powerDecibels(x: v128): v128 {
  return f32x4.mul(k(6), powerOctaves(x));
}

// 2^y for y from -120 to 120: the whole part by the exponent's bits, a polynomial of the rest. Its constants: 13, 7 to 12.
// @ts-ignore: decorator
@inline
export function exp2By(
  y: v128, rounds: v128, c0: v128, c1: v128, c2: v128, c3: v128, c4: v128, c5: v128,
): v128 {
  const rounded = f32x4.add(y, rounds);
  const f = f32x4.sub(y, f32x4.sub(rounded, rounds));
  const n = f32x4.mul(f, f);
  const high = f32x4.add(f32x4.add(c2, f32x4.mul(f, c3)), f32x4.mul(n, f32x4.add(c4, f32x4.mul(f, c5))));
  const p = f32x4.add(f32x4.add(c0, f32x4.mul(f, c1)), f32x4.mul(n, high));
  return i32x4.add(p, i32x4.shl(rounded, 23));
}
// 2^x for x not above 120.
// @ts-ignore: decorator
@inline
export function exp2(x: v128): v128 {
  return exp2By(f32x4.pmax(x, k(15)), k(13), k(7), k(8), k(9), k(10), k(11), k(12));
}

// 10^(x/20).
// @ts-ignore: decorator
@inline
export function gainOf(x: v128): v128 {
  return exp2(f32x4.mul(x, k(14)));
}

// What is left of what a crossing comes from, at a share of it that is left: sets off and arrives without a corner and without a bend,
// that many times over that hardly anything of it is heard: t^5 (126 - 420 t + 540 t^2 - 315 t^3 + 70 t^4).
// @ts-ignore: decorator
@inline
export function bow(t: v128): v128 {
  const square = f32x4.mul(t, t);
  const high = f32x4.add(f32x4.splat(540), f32x4.mul(t, f32x4.sub(f32x4.mul(f32x4.splat(70), t), f32x4.splat(315))));
  const inner = f32x4.add(f32x4.splat(126), f32x4.mul(t, f32x4.sub(f32x4.mul(t, high), f32x4.splat(420))));
  return f32x4.mul(f32x4.mul(t, f32x4.mul(square, square)), inner);
}

/** The same of one number. */
export function bowOf(t: f32): f32 {
  const square: f32 = t * t;
  return t * square * square * (<f32>126 + t * (t * (<f32>540 + t * (<f32>70 * t - <f32>315)) - <f32>420));
}

// tanh, as 1 - 2 / (e^(2x) + 1).
// @ts-ignore: decorator
@inline
export function tanh(x: v128): v128 {
  const e = exp2(f32x4.pmin(k(20), f32x4.mul(x, k(18))));
  return f32x4.sub(k(17), f32x4.div(k(19), f32x4.add(e, k(17))));
}

/**
 * Brings a number nearer to another, through three filters of one pole, so that it sets off without a corner.
 * @param stages of the three, the last of which is the number
 * @param share of its way that each goes; @param least of a way that it goes bit by bit
 */
export function nearer(stages: usize, wanted: f32, share: f32, least: f32): f32 {
  let goal = wanted;
  for (let at: usize = 0; at < 12; at += 4) {
    const was = load<f32>(stages + at), gap: f32 = goal - was;
    goal = abs(gap) < least ? goal : was + share * gap;
    store<f32>(stages + at, goal);
  }
  return goal;
}

/** The lowest power of two that is not below a number: how many frames a ring has. */
export function ringOf(least: f64): i32 {
  let p = 1;
  while (f64(p) < least) p <<= 1;
  return p;
}

// The other of each pair of lanes.
// @ts-ignore: decorator
@inline
function partner(v: v128): v128 {
  return i8x16.shuffle(v, v, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11);
}

// Levels of stereo pairs drawn to the higher of the two by their link; lanes that stand alone keep theirs.
// @ts-ignore: decorator
@inline
export function linkedLevel(level: v128, link: v128, pairs: v128): v128 {
  const top = f32x4.pmax(level, partner(level));
  return v128.bitselect(f32x4.add(level, f32x4.mul(link, f32x4.sub(top, level))), level, pairs);
}
