import { describe, expect, it } from 'vitest';
import { noise, peakOf } from './testing/run';
import { both } from './testing/through';

/** Settings by which each does something. */
const SETTINGS: readonly (readonly [string, Record<string, number>])[] = [
  ['equalizer', { bell1Gain: 6, lowCutOn: 1, highCutOn: 1, lowCutFrequency: 30 }],
  ['saturation', { drive: 18, character: 1 }],
  ['pitch', { semitones: 4, grain: 0 }],
  ['reverb', { decay: 0.2 }],
];

describe('what hears nothing for long', () => {
  it.each(SETTINGS)('sleeps, a %s, and wakes as it was when new', (type, params) => {
    const rate = 48000;
    const sound = noise(9600, 3).map((v) => v * 0.5);
    // Whole windows of a pitch shift, and blocks, lie between the two.
    const after = 4 * 32768;
    const x = new Float32Array(after + 16384);
    x.set(sound);
    x.set(sound, after);
    for (const right of [x, x.map((v) => v * 0.3)]) {
      const [l, r] = both(type, params, x, right, {}, rate) as [Float32Array, Float32Array];
      expect(peakOf(l.subarray(0, 9600))).toBeGreaterThan(0.05);
      expect(peakOf(l.subarray(after - 4096, after))).toBe(0);
      expect([...l.subarray(after)]).toEqual([...l.subarray(0, 16384)]);
      expect([...r.subarray(after)]).toEqual([...r.subarray(0, 16384)]);
    }
  });
});
