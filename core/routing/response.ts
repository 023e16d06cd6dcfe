import { times, type Transfer } from '../processors/filter';
import { processorOf } from '../processors/registry';
import type { Gain, Hertz } from '../base/units';
import { REFERENCE_HERTZ, type Arrival, type Filtering } from './signal';

/** A filter's transfer against its gain at the reference, which the arrival's own gain has in it already. */
function relative(filter: Filtering, hertz: Hertz, sampleRate: Hertz): Transfer {
  const at = (f: Hertz) => processorOf(filter.type).transferAt!(f, filter.params, sampleRate);
  const { re, im } = at(hertz);
  const reference = at(REFERENCE_HERTZ);
  const gain = Math.max(1e-15, Math.hypot(reference.re, reference.im));
  return { re: re / gain, im: im / gain };
}

/**
 * Magnitude of copies of one signal that add with their delays and their filters: |sum of g_k F_k(f) e^(-j 2 pi f d_k / fs)|.
 * Two copies of which the later has the gain g make a comb, |1 + g e^(-j w T)|.
 * @param side the left or the right gains of the arrivals
 * @returns a linear gain
 */
export function responseAt(
  arrivals: readonly Arrival[],
  side: 'left' | 'right',
  hertz: Hertz,
  sampleRate: Hertz,
): Gain {
  let re = 0;
  let im = 0;
  for (const a of arrivals) {
    const w = (2 * Math.PI * hertz * a.delay) / sampleRate;
    const turned = (a.filters ?? []).reduce((t, f) => times(t, relative(f, hertz, sampleRate)), {
      re: a[side] * Math.cos(w),
      im: -a[side] * Math.sin(w),
    });
    re += turned.re;
    im += turned.im;
  }
  return Math.hypot(re, im);
}

/** Frequencies that stand at equal distances on a logarithmic scale. */
export const logFrequencies = (points: number, from: Hertz = 20, to: Hertz = 20000): readonly Hertz[] =>
  Array.from({ length: points }, (_, i) => from * (to / from) ** (i / (points - 1)));

/** Whether copies of different delay reach a side, so that they comb. */
export const isComb = (arrivals: readonly Arrival[]): boolean =>
  (['left', 'right'] as const).some(
    (side) => new Set(arrivals.filter((a) => a[side] !== 0).map((a) => a.delay)).size > 1,
  );

/** Whether filters are on the way, so that what arrives is not the same at every frequency. */
export const isFiltered = (arrivals: readonly Arrival[]): boolean =>
  arrivals.some((a) => (a.filters?.length ?? 0) > 0);
