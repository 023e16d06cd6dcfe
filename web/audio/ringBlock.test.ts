import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { BLOCK } from '@core/plan/layout';
import { copyPairs, PAIRS, touchBlocks } from './ringBlock';
import { ringBytes, ringViews, RING_FRAMES } from './shared';

describe('a block of a ring', () => {
  it('is copied bit by bit, whatever the samples, from any block of either generation and channel', () => {
    const views = ringViews(new SharedArrayBuffer(ringBytes(2)), 2);
    const to = new Float32Array(BLOCK);
    const bits = new Int32Array(to.buffer);
    // Any float that is a number: also the smallest ones, -0, and the largest.
    const sample = fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }).map((n) => {
      const whole = Int32Array.of(n);
      const x = new Float32Array(whole.buffer)[0]!;
      return Number.isNaN(x) ? 0 : x;
    });
    const block = fc.array(sample, { minLength: BLOCK, maxLength: BLOCK });
    fc.assert(
      fc.property(
        block,
        fc.nat(RING_FRAMES / BLOCK - 1),
        fc.nat(1),
        fc.nat(1),
        (samples, k, parity, channel) => {
          const from = views.audio[parity]![channel]!.subarray(k * BLOCK, (k + 1) * BLOCK);
          from.set(samples);
          to.fill(7);
          touchBlocks([null, views], parity, (k * BLOCK) / 2);
          copyPairs(views.pairs[parity]![channel]!, (k * BLOCK) / 2, new Float64Array(to.buffer), PAIRS);
          expect(bits).toEqual(new Int32Array(Float32Array.from(from).buffer));
        },
      ),
      { numRuns: 200 },
    );
  });
  it('stays what is not a number where it is one', () => {
    const views = ringViews(new SharedArrayBuffer(ringBytes(1)), 1);
    const [ring] = views.audio[0]!;
    ring!.set([1, NaN, NaN, 2, Infinity, 3, 4, -Infinity]);
    const to = new Float32Array(BLOCK);
    copyPairs(views.pairs[0]![0]!, 0, new Float64Array(to.buffer), PAIRS);
    expect([...to.subarray(0, 8)]).toEqual([1, NaN, NaN, 2, Infinity, 3, 4, -Infinity]);
  });
});
