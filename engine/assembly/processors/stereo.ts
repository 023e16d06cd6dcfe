// The stereo image; core/processors/stereoTool.ts says what the parameters mean.
import * as its from '../../../build/engine/parameters/stereo';
import { flushOne } from '../math';
import { frames, oneBytes, perFrame } from '../span';
import { matrix } from '../ramp';

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 8;
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  if (channels != 2) return;
  lowMono(buffer, previous, current, state);
  if (frames == 128) matrix(buffer, previous + its.matrix, current + its.matrix);
  else part(buffer, previous + its.matrix, current + its.matrix);
}

// The matrix over a part of a block.
function part(buffer: usize, previous: usize, current: usize): void {
  for (let i = 0; i < frames; i++) {
    const t: f32 = <f32>(i + 1) * perFrame;
    const at = buffer + (<usize>i << 2);
    const l = load<f32>(at), r = load<f32>(at, 512);
    store<f32>(at, between(previous, current, t) * l + between(previous + 4, current + 4, t) * r);
    store<f32>(at, between(previous + 8, current + 8, t) * l + between(previous + 12, current + 12, t) * r, 512);
  }
}
// @ts-ignore: decorator
@inline
function between(previous: usize, current: usize, t: f32): f32 {
  const from = load<f32>(previous);
  return from + (load<f32>(current) - from) * t;
}

/** One side for what is low: a cut of the difference of the sides. */
function lowMono(buffer: usize, previous: usize, current: usize, state: usize): void {
  const right = buffer + 512;
  const at = its.sideCut;
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
  const step: f32 = perFrame;
  const dg = step * (load<f32>(current, at) - g), dk = step * (load<f32>(current, at + 4) - k);
  const d0 = step * (load<f32>(current, at + 8) - m0), d1 = step * (load<f32>(current, at + 12) - m1);
  const d2 = step * (load<f32>(current, at + 16) - m2);
  let s1 = load<f32>(state), s2 = load<f32>(state, 4);
  for (let i: usize = 0; i < oneBytes; i += 4) {
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
