import { describe, expect, it } from 'vitest';
import { noise, peakOf, sine } from './testing/run';
import { both } from './testing/through';

/** Settings by which each does something, and how long it is silent. */
type Settings = [type: string, params: Record<string, number>, seconds?: number];
const SETTINGS: readonly Settings[] = [
  ['equalizer', { bell1Gain: 6, lowCutOn: 1, highCutOn: 1, lowCutFrequency: 30 }],
  ['saturation', { drive: 18, character: 1 }],
  ['pitch', { semitones: 4, grain: 0 }],
  ['reverb', { decay: 0.2 }],
  ['compressor', { threshold: -30, ratio: 8, release: 30 }],
  ['compressor', { threshold: -30, ratio: 8, release: 30, detection: 1, keyLowCut: 200, lookAhead: 3 }],
  ['gate', { threshold: -20, release: 30, hold: 10 }],
  ['limiter', { ceiling: -12, release: 30 }, 8],
  ['deEsser', { threshold: -40, release: 20 }],
  ['delay', { time: 20, feedback: 20 }, 11],
  ['delay', { time: 20, feedback: 30, lowCut: 200, highCut: 5000, drive: 30, duck: 6, pingPong: 1 }, 11],
];

describe('what hears nothing for long', () => {
  it.each(SETTINGS)(
    'sleeps, a %s, and wakes as it was when new',
    (...[type, params, seconds = 2]: Settings) => {
      const rate = 48000;
      const sound = noise(9600, 3).map((v) => v * 0.5);
      // Whole windows of a pitch shift, and blocks, lie between the two.
      const after = Math.ceil((seconds * rate) / 32768 + 1) * 32768;
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
    },
  );

  it('goes on in its turn, a chorus, as if it had not slept', () => {
    const sound = sine(700, 48000, 24000, 0.5);
    const after = 128 * 700;
    const x = new Float32Array(after + sound.length);
    x.set(sound);
    x.set(sound, after);
    // Too little to be heard keeps it awake.
    const awake = x.map((v) => (v === 0 ? 1e-12 : v));
    const [slept] = both('chorus', { rate: 1.3 }, x, x);
    const [never] = both('chorus', { rate: 1.3 }, awake, awake);
    const off = slept!.map((v, i) => v - never![i]!);
    expect(peakOf(slept!.subarray(after - 2400, after))).toBe(0);
    // Its turn is counted in single numbers frame by frame, which go astray by a thousandth.
    expect(peakOf(off)).toBeLessThan(0.03);
    // Where it stands in its turn tells.
    expect(peakOf(slept!.subarray(after).map((v, i) => v - slept![i]!))).toBeGreaterThan(0.05);
  });
});
