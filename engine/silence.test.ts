import { describe, expect, it } from 'vitest';
import { Bench, noise, peakOf, sine } from './testing/run';
import { both, sessionWith } from './testing/through';

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

describe('what is bypassed', () => {
  const clock = () => Number(process.hrtime.bigint()) / 1e6;
  /** Milliseconds that one insert takes in so many blocks, by the engine's own measure. */
  function cost(type: string, on: boolean) {
    const x = noise(128 * 600, 3);
    const params: Record<string, number> =
      type === 'equalizer' ? { bell1Gain: 6, bell2Gain: -3, lowCutOn: 1 } : {};
    const bench = new Bench(sessionWith([{ type, params, on }]), { a: [x, x] }, { capture: ['a'] });
    bench.run(200);
    bench.engine.startMeasuring(clock);
    bench.run(400);
    return bench.engine.stopMeasuring().reduce((a, b) => a + b, 0);
  }
  it.each(['equalizer', 'compressor', 'gate', 'reverb'])('is not computed any more: %s', (type) => {
    // The clock itself takes its share of both.
    expect(cost(type, false)).toBeLessThan(0.5 * cost(type, true));
  });
  it.each([
    ['equalizer', { bell1Gain: 12, bell1Frequency: 300 }],
    ['compressor', { threshold: -30, ratio: 6 }],
    ['gate', { threshold: -60 }],
    ['delay', { note: 0, time: 20 }],
  ])('does its work again as soon as it is switched on, from nothing: %s', (type, params) => {
    const rate = 48000;
    const x = sine(200, rate, 96000, 0.5);
    const lane = [
      [0, 1],
      [0.5, 1],
      [0.5, 0],
      [1, 0],
      [1, 1],
    ] as const;
    const out = both(type, params, x, x, { lanes: { on: lane as unknown as [number, number][] } })[0]!;
    const always = both(type, params, x, x)[0]!;
    // Bypassed it is the signal itself; on again it comes to what it would be had it never been off.
    for (let i = 24000 + 200; i < 48000; i++) expect(Math.abs(out[i]! - x[i]!)).toBeLessThan(1e-6);
    for (let i = 48000 + 24000; i < 96000; i++) expect(Math.abs(out[i]! - always[i]!)).toBeLessThan(1e-3);
  });
});
