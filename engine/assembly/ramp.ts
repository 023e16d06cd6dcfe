// Blocks of one channel. Gains that move: within a block a parameter runs straight from where it stood to where it is now.
import { BLOCK, BLOCK_BYTES } from '../../build/engine/layout';

// @ts-ignore: decorator
@inline
const STEP: f32 = 1.0 / 128.0;

// The values of a ramp at frames i+1 .. i+4.
// @ts-ignore: decorator
@inline
export function rampStart(from: f32, to: f32): v128 {
  const d: f32 = (to - from) * STEP;
  return f32x4.add(f32x4.splat(from), f32x4.mul(f32x4.splat(d), f32x4(1, 2, 3, 4)));
}

// @ts-ignore: decorator
@inline
export function rampStep(from: f32, to: f32): v128 {
  return f32x4.splat((to - from) * STEP * 4.0);
}

/** dst *= g */
export function scale(dst: usize, from: f32, to: f32): void {
  if (from == to) {
    if (to == 1.0) return;
    if (to == 0.0) {
      memory.fill(dst, 0, BLOCK * 4);
      return;
    }
    const g = f32x4.splat(to);
    const end = dst + 512;
    do {
      v128.store(dst, f32x4.mul(v128.load(dst), g));
      v128.store(dst, f32x4.mul(v128.load(dst, 16), g), 16);
      v128.store(dst, f32x4.mul(v128.load(dst, 32), g), 32);
      v128.store(dst, f32x4.mul(v128.load(dst, 48), g), 48);
      dst += 64;
    } while (dst < end);
    return;
  }
  let g = rampStart(from, to);
  const s = rampStep(from, to);
  let i: usize = 0;
  do {
    v128.store(dst + i, f32x4.mul(v128.load(dst + i), g));
    g = f32x4.add(g, s);
    i += 16;
  } while (i < 512);
}

/** dst += g * src */
export function addScaled(dst: usize, src: usize, from: f32, to: f32): void {
  if (from == to) {
    if (to == 0.0) return;
    const g = f32x4.splat(to);
    const end = dst + 512;
    do {
      v128.store(dst, f32x4.add(v128.load(dst), f32x4.mul(v128.load(src), g)));
      v128.store(dst, f32x4.add(v128.load(dst, 16), f32x4.mul(v128.load(src, 16), g)), 16);
      v128.store(dst, f32x4.add(v128.load(dst, 32), f32x4.mul(v128.load(src, 32), g)), 32);
      v128.store(dst, f32x4.add(v128.load(dst, 48), f32x4.mul(v128.load(src, 48), g)), 48);
      dst += 64;
      src += 64;
    } while (dst < end);
    return;
  }
  let g = rampStart(from, to);
  const s = rampStep(from, to);
  let i: usize = 0;
  do {
    v128.store(dst + i, f32x4.add(v128.load(dst + i), f32x4.mul(v128.load(src + i), g)));
    g = f32x4.add(g, s);
    i += 16;
  } while (i < 512);
}

/** dst *= a value a frame */
export function scaleBy(dst: usize, row: usize): void {
  for (let i: usize = 0; i < 512; i += 16) v128.store(dst + i, f32x4.mul(v128.load(dst + i), v128.load(row + i)));
}
/** dst += src * a value a frame */
export function addBy(dst: usize, src: usize, row: usize): void {
  for (let i: usize = 0; i < 512; i += 16)
    v128.store(dst + i, f32x4.add(v128.load(dst + i), f32x4.mul(v128.load(src + i), v128.load(row + i))));
}
/** dst = beside + (dst - beside) * a value a frame */
export function blendBy(dst: usize, beside: usize, row: usize): void {
  for (let i: usize = 0; i < 512; i += 16) {
    const dry = v128.load(beside + i);
    v128.store(dst + i, f32x4.add(dry, f32x4.mul(f32x4.sub(v128.load(dst + i), dry), v128.load(row + i))));
  }
}

/** Adds one channel to two: left by one gain, right by another. */
export function spread(left: usize, src: usize, l: f32, r: f32): void {
  if (l == 0 && r == 0) return;
  const gl = f32x4.splat(l), gr = f32x4.splat(r);
  const end = left + 512;
  do {
    const x = v128.load(src), y = v128.load(src, 16);
    v128.store(left, f32x4.add(v128.load(left), f32x4.mul(x, gl)));
    v128.store(left, f32x4.add(v128.load(left, 16), f32x4.mul(y, gl)), 16);
    v128.store(left, f32x4.add(v128.load(left, 512), f32x4.mul(x, gr)), 512);
    v128.store(left, f32x4.add(v128.load(left, 528), f32x4.mul(y, gr)), 528);
    left += 32;
    src += 32;
  } while (left < end);
}

/** Adds four channels to two, one after the other: the gains are left and right of each. */
export function spreadFour(
  left: usize, a: usize, b: usize, c: usize, d: usize,
  al: f32, ar: f32, bl: f32, br: f32, cl: f32, cr: f32, dl: f32, dr: f32,
): void {
  const gal = f32x4.splat(al), gar = f32x4.splat(ar), gbl = f32x4.splat(bl), gbr = f32x4.splat(br);
  const gcl = f32x4.splat(cl), gcr = f32x4.splat(cr), gdl = f32x4.splat(dl), gdr = f32x4.splat(dr);
  let i: usize = 0;
  do {
    const w = v128.load(a + i), x = v128.load(b + i), y = v128.load(c + i), z = v128.load(d + i);
    let l = f32x4.add(v128.load(left + i), f32x4.mul(w, gal));
    let r = f32x4.add(v128.load(left + i, 512), f32x4.mul(w, gar));
    l = f32x4.add(l, f32x4.mul(x, gbl));
    r = f32x4.add(r, f32x4.mul(x, gbr));
    l = f32x4.add(l, f32x4.mul(y, gcl));
    r = f32x4.add(r, f32x4.mul(y, gcr));
    v128.store(left + i, f32x4.add(l, f32x4.mul(z, gdl)));
    v128.store(left + i, f32x4.add(r, f32x4.mul(z, gdr)), 512);
    i += 16;
  } while (i < 512);
}

/** Whether whole blocks hold finite numbers alone: x * 0 is 0 for those, and not a number for all others. */
export function finite(buffer: usize, bytes: usize): bool {
  const zero = f32x4.splat(0);
  let sum = zero, sum1 = zero, sum2 = zero, sum3 = zero;
  let i: usize = 0;
  do {
    sum = f32x4.add(sum, f32x4.mul(v128.load(buffer + i), zero));
    sum1 = f32x4.add(sum1, f32x4.mul(v128.load(buffer + i, 16), zero));
    sum2 = f32x4.add(sum2, f32x4.mul(v128.load(buffer + i, 32), zero));
    sum3 = f32x4.add(sum3, f32x4.mul(v128.load(buffer + i, 48), zero));
    i += 64;
  } while (i < bytes);
  return !v128.any_true(f32x4.ne(f32x4.add(f32x4.add(sum, sum1), f32x4.add(sum2, sum3)), zero));
}

/** The same by a value a frame of each gain. */
export function matrixBy(left: usize, a: usize, b: usize, c: usize, d: usize): void {
  for (let i: usize = 0; i < 512; i += 16) {
    const l = v128.load(left + i), r = v128.load(left + i, 512);
    v128.store(left + i, f32x4.add(f32x4.mul(v128.load(a + i), l), f32x4.mul(v128.load(b + i), r)));
    v128.store(left + i, f32x4.add(f32x4.mul(v128.load(c + i), l), f32x4.mul(v128.load(d + i), r)), 512);
  }
}

/** Both sides made of both: gains left to left, right to left, left to right, right to right. */
export function matrix(buffer: usize, previous: usize, current: usize): void {
  const a0 = load<f32>(previous), b0 = load<f32>(previous, 4), c0 = load<f32>(previous, 8), d0 = load<f32>(previous, 12);
  const a1 = load<f32>(current), b1 = load<f32>(current, 4), c1 = load<f32>(current, 8), d1 = load<f32>(current, 12);
  if (a0 == 1 && a1 == 1 && b0 == 0 && b1 == 0 && c0 == 0 && c1 == 0 && d0 == 1 && d1 == 1) return;
  let a = rampStart(a0, a1), b = rampStart(b0, b1), c = rampStart(c0, c1), d = rampStart(d0, d1);
  const sa = rampStep(a0, a1), sb = rampStep(b0, b1), sc = rampStep(c0, c1), sd = rampStep(d0, d1);
  const right = buffer + BLOCK_BYTES;
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
    const l = v128.load(buffer + i), r = v128.load(right + i);
    v128.store(buffer + i, f32x4.add(f32x4.mul(a, l), f32x4.mul(b, r)));
    v128.store(right + i, f32x4.add(f32x4.mul(c, l), f32x4.mul(d, r)));
    a = f32x4.add(a, sa);
    b = f32x4.add(b, sb);
    c = f32x4.add(c, sc);
    d = f32x4.add(d, sd);
  }
}
