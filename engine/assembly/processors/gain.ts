// A level; core/processors/gain.ts says what the parameters mean.
import * as its from '../../../build/engine/parameters/gain';
import { BLOCK_BYTES } from '../../../build/engine/layout';
import { scale } from '../ramp';

export function bytes(sampleRate: i32): i32 {
  return 0;
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const from = load<f32>(previous, its.gain), to = load<f32>(current, its.gain);
  scale(buffer, from, to);
  if (channels == 2) scale(buffer + BLOCK_BYTES, from, to);
}
