// The stereo image, and gain; core/processors/stereoTool.ts and gain.ts say what the parameters mean.
import { flushOne } from './math';

/** Params: gains ll, rl, lr, rr; a low-cut section for the difference of the sides. */
export function lowMono(buffer: usize, previous: usize, current: usize, state: usize): void {
  const right = buffer + 512;
  const at: usize = 16;
  if (
    load<f32>(current, at + 8) == 1 && load<f32>(current, at + 12) == 0 && load<f32>(current, at + 16) == 0 &&
    load<f32>(previous, at + 12) == 0 && load<f32>(previous, at + 16) == 0
  ) {
    store<f32>(state, 0);
    store<f32>(state, 0, 4);
    return;
  }
  let g = load<f32>(previous, at), k = load<f32>(previous, at + 4), m0 = load<f32>(previous, at + 8);
  let m1 = load<f32>(previous, at + 12), m2 = load<f32>(previous, at + 16);
  const step: f32 = 0.0078125;
  const dg = step * (load<f32>(current, at) - g), dk = step * (load<f32>(current, at + 4) - k);
  const d0 = step * (load<f32>(current, at + 8) - m0), d1 = step * (load<f32>(current, at + 12) - m1);
  const d2 = step * (load<f32>(current, at + 16) - m2);
  let s1 = load<f32>(state), s2 = load<f32>(state, 4);
  for (let i: usize = 0; i < 512; i += 4) {
    g += dg;
    k += dk;
    m0 += d0;
    m1 += d1;
    m2 += d2;
    const l = load<f32>(buffer + i), r = load<f32>(right + i);
    const middle: f32 = <f32>0.5 * (l + r), x: f32 = <f32>0.5 * (l - r);
    const a1: f32 = <f32>1 / (<f32>1 + g * (g + k)), a2: f32 = g * a1, a3: f32 = g * a2;
    const v3: f32 = x - s2;
    const v1: f32 = a1 * s1 + a2 * v3;
    const v2: f32 = s2 + a2 * s1 + a3 * v3;
    s1 = v1 + v1 - s1;
    s2 = v2 + v2 - s2;
    const side: f32 = m0 * x + m1 * v1 + m2 * v2;
    store<f32>(buffer + i, middle + side);
    store<f32>(right + i, middle - side);
  }
  store<f32>(state, flushOne(s1));
  store<f32>(state, flushOne(s2), 4);
}
