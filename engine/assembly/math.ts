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
  return v128.and(v, f32x4.gt(f32x4.abs(v), f32x4.splat(1e-15)));
}

// @ts-ignore: decorator
@inline
export function flushOne(x: f32): f32 {
  return abs(x) > 1e-15 ? x : 0;
}

// 10 log10(x) of a power, by the exponent's bits and a polynomial of the mantissa: Abramowitz and Stegun, 4.1.44, divided
// by ln 2 (coefficients from memory; a test holds the result against Math.log10).
// @ts-ignore: decorator
@inline
export function powerDecibels(x: v128): v128 {
  const bits = f32x4.max(x, f32x4.splat(1e-16));
  const exponent = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_s(bits, 23), i32x4.splat(127)));
  const m = f32x4.sub(
    v128.or(v128.and(bits, i32x4.splat(0x7fffff)), i32x4.splat(0x3f800000)),
    f32x4.splat(1),
  );
  let p = f32x4.add(f32x4.splat(0.0520647), f32x4.mul(m, f32x4.splat(-0.0093105)));
  p = f32x4.add(f32x4.splat(-0.1375313), f32x4.mul(m, p));
  p = f32x4.add(f32x4.splat(0.2418737), f32x4.mul(m, p));
  p = f32x4.add(f32x4.splat(-0.3473055), f32x4.mul(m, p));
  p = f32x4.add(f32x4.splat(0.4786848), f32x4.mul(m, p));
  p = f32x4.add(f32x4.splat(-0.7211659), f32x4.mul(m, p));
  p = f32x4.add(f32x4.splat(1.4426899), f32x4.mul(m, p));
  return f32x4.mul(f32x4.splat(3.01029995), f32x4.add(exponent, f32x4.mul(m, p)));
}

// 2^y, by the exponent's bits and a polynomial of the rest (Taylor terms of 2^f on 0..1, error below 2e-6).
// @ts-ignore: decorator
@inline
export function exp2(x: v128): v128 {
  const y = f32x4.min(f32x4.max(x, f32x4.splat(-120)), f32x4.splat(120));
  const whole = f32x4.floor(y);
  const f = f32x4.sub(y, whole);
  let p = f32x4.add(f32x4.splat(0.00133336), f32x4.mul(f, f32x4.splat(0.00015469)));
  p = f32x4.add(f32x4.splat(0.00961813), f32x4.mul(f, p));
  p = f32x4.add(f32x4.splat(0.05550411), f32x4.mul(f, p));
  p = f32x4.add(f32x4.splat(0.24022651), f32x4.mul(f, p));
  p = f32x4.add(f32x4.splat(0.69314718), f32x4.mul(f, p));
  p = f32x4.add(f32x4.splat(1), f32x4.mul(f, p));
  const scale = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  return f32x4.mul(p, scale);
}

// 10^(x/20).
// @ts-ignore: decorator
@inline
export function gainOf(x: v128): v128 {
  return exp2(f32x4.mul(x, f32x4.splat(0.16609640474)));
}

// tanh, as 1 - 2 / (e^(2x) + 1).
// @ts-ignore: decorator
@inline
export function tanh(x: v128): v128 {
  const e = exp2(f32x4.mul(x, f32x4.splat(2.88539008)));
  return f32x4.sub(f32x4.splat(1), f32x4.div(f32x4.splat(2), f32x4.add(e, f32x4.splat(1))));
}

// The other of each pair of lanes.
// @ts-ignore: decorator
@inline
export function partner(v: v128): v128 {
  return i8x16.shuffle(v, v, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11);
}
