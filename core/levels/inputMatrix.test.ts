import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inputMatrix } from './inputMatrix';

const plain = { channels: 2, trimDb: 0, invert: false, swap: false, width: 1 } as const;
const through = (m: readonly number[], l: number, r: number) =>
  [m[0]! * l + m[1]! * r, m[2]! * l + m[3]! * r] as const;

describe('input of a stereo strip', () => {
  it('follows M = (L+R)/2, S = w(L-R)/2, L = M+S, R = M-S (mid-side stereo, Blumlein, GB patent 394325, 1931)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 2, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (width, l, r) => {
          const mid = (l + r) / 2;
          const side = (width * (l - r)) / 2;
          const [l2, r2] = through(inputMatrix({ ...plain, width }), l, r);
          expect(l2).toBeCloseTo(mid + side, 12);
          expect(r2).toBeCloseTo(mid - side, 12);
        },
      ),
    );
  });
  it('swaps before it widens, and trims and inverts before both', () => {
    expect(through(inputMatrix({ ...plain, swap: true }), 1, 0)).toEqual([0, 1]);
    expect(through(inputMatrix({ ...plain, width: 0 }), 1, 0)).toEqual([0.5, 0.5]);
    expect(through(inputMatrix({ ...plain, invert: true, trimDb: 20 }), 0.01, 0)[0]).toBeCloseTo(-0.1, 12);
    const [l, r] = through(inputMatrix({ ...plain, swap: true, width: 2 }), 1, 0);
    expect([l, r]).toEqual([-0.5, 1.5]);
  });
  it('of a mono strip is trim and polarity alone', () => {
    expect(
      inputMatrix({ ...plain, channels: 1, trimDb: -20, invert: true, width: 2, swap: true })[0],
    ).toBeCloseTo(-0.1, 12);
  });
});
