// A level; core/processors/gain.ts says what the parameters mean.
import * as its from '../../../build/engine/parameters/gain';
import { BLOCK_BYTES } from '../../../build/engine/layout';
import { frames, perFrame } from '../span';
import { scale } from '../ramp';

export const FINEST = 1;
export function bytes(sampleRate: i32): i32 {
  return 0;
}

export function process(
  buffer: usize, channels: i32, targets: usize, previous: usize, current: usize, state: usize, sampleRate: i32,
): void {
  const from = load<f32>(previous, its.gain), to = load<f32>(current, its.gain);
  for (let c = 0; c < channels; c++) {
    const at = buffer + <usize>c * BLOCK_BYTES;
    if (frames == 128) scale(at, from, to);
    else
      for (let i = 0; i < frames; i++) {
        const g: f32 = from + (to - from) * (<f32>(i + 1) * perFrame);
        store<f32>(at + (<usize>i << 2), load<f32>(at + (<usize>i << 2)) * g);
      }
  }
}
