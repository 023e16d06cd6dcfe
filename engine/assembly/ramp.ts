// Gains that move: within a block a parameter runs straight from where it stood to where it is now.
import { BLOCK } from './layout';

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
    for (let i: usize = 0; i < 512; i += 16) v128.store(dst + i, f32x4.mul(v128.load(dst + i), g));
    return;
  }
  let g = rampStart(from, to);
  const s = rampStep(from, to);
  for (let i: usize = 0; i < 512; i += 16) {
    v128.store(dst + i, f32x4.mul(v128.load(dst + i), g));
    g = f32x4.add(g, s);
  }
}

/** dst += g * src */
export function addScaled(dst: usize, src: usize, from: f32, to: f32): void {
  if (from == to) {
    if (to == 0.0) return;
    if (to == 1.0) {
      for (let i: usize = 0; i < 512; i += 16)
        v128.store(dst + i, f32x4.add(v128.load(dst + i), v128.load(src + i)));
      return;
    }
    const g = f32x4.splat(to);
    for (let i: usize = 0; i < 512; i += 16)
      v128.store(dst + i, f32x4.add(v128.load(dst + i), f32x4.mul(v128.load(src + i), g)));
    return;
  }
  let g = rampStart(from, to);
  const s = rampStep(from, to);
  for (let i: usize = 0; i < 512; i += 16) {
    v128.store(dst + i, f32x4.add(v128.load(dst + i), f32x4.mul(v128.load(src + i), g)));
    g = f32x4.add(g, s);
  }
}
