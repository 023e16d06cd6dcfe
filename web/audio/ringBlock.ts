import { BLOCK } from '@core/plan/layout';
import type { RingViews } from './shared';

/** Pairs of samples in a block, and in a line of the cache of 64 bytes. */
const PAIRS = BLOCK / 2;
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
 * Copies a block of a ring, two samples at a time. By hand: a view of a part would be a new object in every block.
 * @param at in pairs of samples; a whole number, which a compiler knows of a shift
 */
export function copyBlock(ring: Float64Array, at: number, to: Float64Array): void {
  for (let i = 0; i < PAIRS; i += 4) {
    to[i] = ring[at + i]!;
    to[i + 1] = ring[at + i + 1]!;
    to[i + 2] = ring[at + i + 2]!;
    to[i + 3] = ring[at + i + 3]!;
  }
}
