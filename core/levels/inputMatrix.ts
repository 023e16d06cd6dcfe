import type { Channels, Decibels } from '../base/units';
import { gainOf } from './decibels';

/** [ll, rl, lr, rr]: L' = ll*L + rl*R, R' = lr*L + rr*R. */
export type InputMatrix = readonly [ll: number, rl: number, lr: number, rr: number];

/** What a strip's input stage is set to. */
export interface InputStage {
  readonly channels: Channels;
  readonly trimDb: Decibels;
  readonly invert: boolean;
  readonly swap: boolean;
  readonly width: number;
}

/**
 * Trim, polarity, swap and width of a stereo strip as one matrix, in this order.
 * Width w: M = (L+R)/2, S = w*(L-R)/2, L = M+S, R = M-S. A mono strip has trim and polarity alone.
 */
export function inputMatrix(strip: InputStage): InputMatrix {
  const g = gainOf(strip.trimDb) * (strip.invert ? -1 : 1);
  if (strip.channels === 1) return [g, 0, 0, g];
  const near = ((1 + strip.width) / 2) * g;
  const far = ((1 - strip.width) / 2) * g;
  return strip.swap ? [far, near, near, far] : [near, far, far, near];
}
