import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clampLevel, FADER_FLOOR, FADER_TOP, levelAt, travelOf } from './faderLaw';

describe('fader law', () => {
  it('and its inverse cancel over the whole travel', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        (t) => void expect(travelOf(levelAt(t))).toBeCloseTo(t, 10),
      ),
    );
    fc.assert(
      fc.property(
        fc.double({ min: -79.9, max: 12, noNaN: true }),
        (l) => void expect(levelAt(travelOf(l))).toBeCloseTo(l, 8),
      ),
    );
  });
  it('rises with its travel', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        (a, b) => {
          fc.pre(b - a > 1e-9);
          expect(levelAt(b)!).toBeGreaterThan(levelAt(a)!);
        },
      ),
    );
  });
  it('is silent at the bottom, 0 dB at three quarters, +12 dB at the top', () => {
    expect(levelAt(0)).toBeNull();
    expect(levelAt(0.75)).toBe(0);
    expect(levelAt(1)).toBe(FADER_TOP);
    expect(travelOf(null)).toBe(0);
  });
  it('holds levels in its range', () => {
    expect(clampLevel(20)).toBe(FADER_TOP);
    expect(clampLevel(FADER_FLOOR - 1)).toBeNull();
    expect(clampLevel(null)).toBeNull();
    expect(clampLevel(-6)).toBe(-6);
  });
  it('resolves better than a tenth of a decibel near 0 dB in 14 bits (MIDI 1.0: 16384 steps)', () => {
    const step = levelAt(travelOf(0) + 1 / 16383)!;
    expect(step).toBeLessThan(0.1);
    expect(step).toBeGreaterThan(0);
  });
});
