import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { travelAt, turned, valueAtTravel } from './law';
import { processors } from './registry';

const parameters = processors.flatMap((p) => p.parameters.map((q) => [`${p.type} ${q.id}`, q] as const));
const of = (name: string) => parameters.find(([n]) => n === name)![1];

describe('the way of a parameter', () => {
  // Halfway between two frequencies by ratio is their geometric mean: sqrt(20 * 20000) = 632.46 Hz.
  it('has the geometric mean in its middle under the log law', () => {
    const frequency = of('equalizer bell1Frequency');
    expect(valueAtTravel(frequency, 0.5)).toBeCloseTo(Math.sqrt(frequency.min * frequency.max), 6);
    expect(travelAt(frequency, 632.4555)).toBeCloseTo(0.5, 5);
  });
  it('has the mean in its middle where steps are equal', () => {
    expect(valueAtTravel(of('equalizer bell1Gain'), 0.5)).toBe(0);
    expect(travelAt(of('equalizer bell1Gain'), 12)).toBe(0.75);
  });
  it.each(parameters)('leads there and back for %s', (_, p) => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (t) => {
        expect(travelAt(p, valueAtTravel(p, t))).toBeCloseTo(t, 9);
      }),
      { numRuns: 30 },
    );
  });
});

describe('an encoder', () => {
  it.each(parameters)('moves %s by every detent, and from end to end', (_, p) => {
    let value = p.min;
    for (let k = 0; value < p.max; k++) {
      const next = turned(p, value, 1);
      expect(next).toBeGreaterThan(value);
      value = next;
      if (k > 5000) throw new Error('never there');
    }
    expect(value).toBe(p.max);
    expect(turned(p, p.max, 1)).toBe(p.max);
    expect(turned(p, p.max, -1)).toBeLessThan(p.max);
  });
  it('goes through choices one a detent', () => {
    const slope = of('equalizer lowCutSlope');
    expect(turned(slope, 2, 1)).toBe(3);
    expect(turned(slope, 2, -1)).toBe(1);
  });
});
