import { BLOCK } from '@core/plan/layout';
import type { RingViews } from './shared';

/** Pairs of samples in a block, and in a line of the cache of 64 bytes. */
export const PAIRS = BLOCK / 2;
const LINE = 8;

/** Nobody reads it; but no compiler can leave out what comes to stand here. */
const seen = new Float64Array(1);
/** By hand: in a loop it takes twice as long. */
function touchBlock(ring: Float64Array, at: number): number {
  const near = ring[at]! + ring[at + LINE]! + ring[at + 2 * LINE]! + ring[at + 3 * LINE]!;
  const far = ring[at + 4 * LINE]! + ring[at + 5 * LINE]! + ring[at + 6 * LINE]! + ring[at + 7 * LINE]!;
  return near + far;
}
/**
 * Looks at each line of the cache that a block of any ring stands in. All rings together are larger than what is near: where all are
 * asked for before the first is copied, the machine fetches many lines at once.
 * @param at in pairs of samples
 */
export function touchBlocks(rings: readonly (RingViews | null)[], parity: number, at: number): void {
  for (let s = 0; s < rings.length; s++) {
    const views = rings[s];
    if (!views) continue;
    const channels = views.pairs[parity]!;
    for (let c = 0; c < channels.length; c++) seen[0] = touchBlock(channels[c]!, at);
  }
}

/**
 * Copies a part of a ring, two samples at a time. By hand: a view of a part would be a new object each time.
 * @param at in pairs of samples; a whole number, which a compiler knows of a shift
 * @param pairs of samples, whole lines of the cache
 */
export function copyPairs(ring: Float64Array, at: number, to: Float64Array, pairs: number): void {
  // All of a line is read before any of it is written: a processor takes a place that looks alike for the same one, and waits.
  for (let i = 0; i < pairs; i += LINE) {
    const a = ring[at + i]!;
    const b = ring[at + i + 1]!;
    const c = ring[at + i + 2]!;
    const d = ring[at + i + 3]!;
    const e = ring[at + i + 4]!;
    const f = ring[at + i + 5]!;
    const g = ring[at + i + 6]!;
    const h = ring[at + i + 7]!;
    to[i] = a;
    to[i + 1] = b;
    to[i + 2] = c;
    to[i + 3] = d;
    to[i + 4] = e;
    to[i + 5] = f;
    to[i + 6] = g;
    to[i + 7] = h;
  }
}

/** Copies nothing so often that a browser compiles what copies: the audio thread begins anew with each start, and has no time for that. */
export function rehearseCopies(): void {
  const ring = new Float64Array(new SharedArrayBuffer(BLOCK * 8));
  const to = new Float64Array(PAIRS);
  for (let k = 0; k < 3000; k++) {
    seen[0] = touchBlock(ring, k & 1);
    copyPairs(ring, k & 1, to, PAIRS);
  }
}
