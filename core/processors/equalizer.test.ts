import { describe, expect, it } from 'vitest';
import { bandAlone, equalizer, EQUALIZER_BANDS } from './equalizer';

const level = (hertz: number, i: number, params: Record<string, number>) =>
  equalizer.responseAt!(hertz, bandAlone(EQUALIZER_BANDS[i]!, params), 48000);

describe('a band heard alone', () => {
  it('of a bell is what lies between the edges of its bandwidth, whatever its gain', () => {
    // Q = 1.41 is an octave: its edges lie half an octave away. (Bandwidth by Q: W3C Audio EQ Cookbook.)
    for (const bell2Gain of [-12, 0, 9]) {
      const params = { bell2Frequency: 1000, bell2Q: 1.4142, bell2Gain };
      expect(level(1000, 3, params)).toBeGreaterThan(-1);
      expect(level(1000 * 2 ** 0.5, 3, params)).toBeCloseTo(-3, 0);
      expect(level(250, 3, params)).toBeLessThan(-30);
      expect(level(4000, 3, params)).toBeLessThan(-30);
    }
  });
  it('of a narrow bell is a third of an octave, so that it can be heard', () => {
    const params = { bell2Frequency: 1000, bell2Q: 40 };
    expect(level(1000 * 2 ** (1 / 6), 3, params)).toBeCloseTo(level(1000 / 2 ** (1 / 6), 3, params), 0);
    expect(level(1000, 3, params)).toBeGreaterThan(-8);
  });
  it('of what works on lows is what lies below, of highs what lies above', () => {
    for (const i of [0, 1]) {
      expect(level(40, i, { lowCutFrequency: 200, lowShelfFrequency: 200 })).toBeGreaterThan(-0.5);
      expect(level(1600, i, { lowCutFrequency: 200, lowShelfFrequency: 200 })).toBeLessThan(-60);
    }
    for (const i of [6, 7]) {
      expect(level(16000, i, { highShelfFrequency: 4000, highCutFrequency: 4000 })).toBeGreaterThan(-0.5);
      expect(level(500, i, { highShelfFrequency: 4000, highCutFrequency: 4000 })).toBeLessThan(-60);
    }
  });
});
