import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { coherentSum, decibelsOf, gainOf, levelSpoken, levelText, powerSum, readLevel } from './decibels';

describe('decibels', () => {
  // Handbook values of 20 log10 (ISO 80000-3 / IEC 60027-3 define the decibel of a field quantity so).
  it.each([
    [1, 0],
    [2, 6.0206],
    [0.5, -6.0206],
    [10, 20],
    [0.1, -20],
    [Math.SQRT1_2, -3.0103],
  ])('of a gain of %s are %s', (gain, level) => expect(decibelsOf(gain)).toBeCloseTo(level, 4));

  it('turn back into the gain', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -180, max: 48, noNaN: true }),
        (l) => void expect(decibelsOf(gainOf(l))).toBeCloseTo(l, 8),
      ),
    );
    expect(gainOf(null)).toBe(0);
    expect(decibelsOf(0)).toBeNull();
  });

  it('of two equal coherent signals add to +6.02 dB, of two incoherent ones to +3.01 dB (textbook)', () => {
    expect(coherentSum([-20, -20])).toBeCloseTo(-20 + 6.0206, 4);
    expect(powerSum([-20, -20])).toBeCloseTo(-20 + 3.0103, 4);
    // Ten incoherent sources: +10 dB.
    expect(powerSum(Array.from({ length: 10 }, () => -30))).toBeCloseTo(-20, 6);
    expect(coherentSum([null, -6])).toBeCloseTo(-6, 8);
  });
});

describe('a level as text', () => {
  it.each([
    [0, '0.0'],
    [-6, '−6.0'],
    [1.5, '+1.5'],
    [-0.04, '0.0'],
    [null, '−∞'],
  ])('%s is written %s', (level, text) => expect(levelText(level)).toBe(text));
  it('is read back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -800, max: 120 }),
        (n) => void expect(readLevel(levelText(n / 10))).toBeCloseTo(n / 10, 8),
      ),
    );
    expect(readLevel('off')).toBeNull();
    expect(readLevel('-inf')).toBeNull();
    expect(readLevel('−6 dB')).toBe(-6);
    expect(readLevel('3,5')).toBe(3.5);
  });
  it.each(['loud', '', '6 6', '--6', '1e3'])('%j is no level', (text) =>
    expect(readLevel(text)).toBeUndefined(),
  );
  it('is spoken in words', () => {
    expect(levelSpoken(-6)).toBe('minus 6 decibels');
    expect(levelSpoken(null)).toBe('silent');
  });
});
