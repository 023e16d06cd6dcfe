import type { Gain, Hertz } from '../session/units';
import type { Arrival } from './signal';

/**
 * Magnitude of copies of one signal that add with their delays: |sum of g_k e^(-j 2 pi f d_k / fs)|. Two copies of which
 * the later has the gain g make a comb, |1 + g e^(-j w T)|.
 * @param gains the left or the right gains of the arrivals
 * @returns a linear gain
 */
export function responseAt(
  arrivals: readonly Arrival[],
  side: 'left' | 'right',
  hertz: Hertz,
  sampleRate: number,
): Gain {
  let re = 0;
  let im = 0;
  for (const a of arrivals) {
    const w = (2 * Math.PI * hertz * a.delay) / sampleRate;
    re += a[side] * Math.cos(w);
    im -= a[side] * Math.sin(w);
  }
  return Math.hypot(re, im);
}

/** Frequencies that stand at equal distances on a logarithmic scale. */
export const logFrequencies = (points: number, from: Hertz = 20, to: Hertz = 20000): readonly Hertz[] =>
  Array.from({ length: points }, (_, i) => from * (to / from) ** (i / (points - 1)));

/** Whether copies of different delay reach a side, so that its response is not flat. */
export const isComb = (arrivals: readonly Arrival[]): boolean =>
  (['left', 'right'] as const).some((side) => arrivals.filter((a) => a[side] !== 0).length > 1);
