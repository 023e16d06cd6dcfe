import FFT from 'fft.js';
import { describe, expect, it } from 'vitest';
import { limiter } from '../core/processors/limiter';
import { truePeak } from '../core/metering/truePeak';
import type { Insert } from '../core/session/types';
import { constant, noise, peakOf, sine } from './testing/run';
import { above } from './testing/spectrum';
import { through, both } from './testing/through';
import { packageTruePeak } from './testing/meterPackage';

const RATE = 48000;
const db = (x: number) => 20 * Math.log10(Math.abs(x));
const late = (params: Record<string, number>) => limiter.latency(params, RATE);

/** The highest value at sixteen times the sample rate, by a spectrum that is filled up with zeros: exact where the excerpt fades at its ends. */
function sixteenfold(audio: Float32Array): number {
  const n = audio.length;
  const from = new FFT(n);
  const to = new FFT(n * 16);
  const spectrum = from.createComplexArray() as number[];
  from.realTransform(spectrum, audio as unknown as number[]);
  const wide = (to.createComplexArray() as number[]).fill(0);
  for (let k = 0; k < n; k++) wide[k] = spectrum[k]!;
  // The mirror image of the lower half.
  for (let k = 1; k < n / 2; k++) {
    wide[2 * (16 * n - k)] = spectrum[2 * k]!;
    wide[2 * (16 * n - k) + 1] = -spectrum[2 * k + 1]!;
  }
  const out = to.createComplexArray() as number[];
  to.inverseTransform(out, wide);
  let peak = 0;
  for (let i = 0; i < 32 * n; i += 2) peak = Math.max(peak, Math.abs(out[i]!));
  return peak * 16;
}

const FRAMES = 16384;
const materials = (rate: number): Readonly<Record<string, Float32Array>> => {
  const high = noise(FRAMES + 8192, 5);
  const over = above(high, 18000, rate);
  return {
    noise: noise(FRAMES + 8192, 3),
    signs: noise(FRAMES + 8192, 4).map((v) => Math.sign(v)),
    'bursts of noise': noise(FRAMES + 8192, 9).map((v, i) => (i % 4000 < 400 ? v : 0.01 * v)),
    'noise up to 18 kHz': high.map((v, i) => 1.5 * (v - over[i]!)),
    'a clipped chord': Float32Array.from({ length: FRAMES + 8192 }, (_, i) => {
      const tone = (hertz: number) => Math.sin((2 * Math.PI * hertz * i) / rate);
      return Math.max(-1, Math.min(1, 3 * (tone(97) + 0.7 * tone(1234) + 0.5 * tone(7777))));
    }),
    'a square': Float32Array.from({ length: FRAMES + 8192 }, (_, i) => (i % 97 < 48 ? 1 : -1)),
  };
};

describe('the limiter', () => {
  // ITU-R BS.1770-5, annex 2, and sixteen times the sample rate.
  it.each([44100, 48000, 96000, 192000])(
    'lets nothing above its ceiling at %i Hz, by annex 2 and at sixteen times the rate',
    (rate) => {
      for (const [name, x] of Object.entries(materials(rate)))
        for (const lookAhead of [0.5, 2]) {
          const out = through('limiter', { gain: 6, ceiling: -1, lookAhead, release: 20 }, x, { rate });
          // A cut would ring between its first samples: the excerpt begins and ends softly.
          const part = out
            .slice(4096, 4096 + FRAMES)
            .map((v, i) => v * Math.min(1, i / 1000, (FRAMES - 1 - i) / 1000));
          expect(db(truePeak(part)), `${name}, ${lookAhead} ms, annex 2`).toBeLessThan(-1 + 0.1);
          expect(db(sixteenfold(part)), `${name}, ${lookAhead} ms, 16`).toBeLessThan(-1 + 0.1);
          // And it is no softer than it has to be.
          expect(db(sixteenfold(part)), name).toBeGreaterThan(-1.2);
        }
    },
  );

  it.each([
    ['noise', noise(48000, 7)],
    [
      'a tone whose peaks lie between the samples',
      Float32Array.from({ length: 48000 }, (_, i) => Math.sin((Math.PI / 2) * i + Math.PI / 4)),
    ],
    ['a tone at 11 kHz', sine(11025, RATE, 48000, 1)],
  ])('keeps the true peak of %s below its ceiling, by an independent meter (ebur128) too', (_name, x) => {
    for (const lookAhead of [0.5, 10]) {
      const part = through('limiter', { gain: 9, ceiling: -1, lookAhead }, x).subarray(4800, 43200);
      const out = part.map((v, i) => v * Math.min(1, i / 960, (part.length - 1 - i) / 960));
      expect(packageTruePeak(RATE, out)).toBeLessThan(-1 + 0.1);
    }
  });

  // IEC 60268-3: total harmonic distortion is what is left without the fundamental, over all there is.
  it.each([5, 20, 80, 1000])(
    'does not bend a tone of 40 Hz that it turns down by 6 dB, at a release of %i ms',
    (release) => {
      const x = sine(40, RATE, 128 * 1200, 2 * 10 ** (-1 / 20));
      const out = through('limiter', { ceiling: -1, release }, x).subarray(-48000);
      let [s, c, all] = [0, 0, 0];
      out.forEach((v, i) => {
        s += v * Math.sin((2 * Math.PI * 40 * i) / RATE);
        c += v * Math.cos((2 * Math.PI * 40 * i) / RATE);
        all += v * v;
      });
      const rest = Math.max(0, all - (2 * (s * s + c * c)) / 48000);
      expect(100 * Math.sqrt(rest / all)).toBeLessThan(0.1);
      expect(db(peakOf(out))).toBeCloseTo(-1, 1);
    },
  );

  it('is the signal itself where that stays 7 dB below the ceiling', () => {
    const x = noise(12800, 2).map((v) => 0.39 * v);
    const out = through('limiter', { ceiling: -1 }, x);
    const n = late({});
    expect(out.subarray(n).every((v, i) => v === x[i])).toBe(true);
  });

  it('turns down before the peak comes, and lets go after it', () => {
    const x = constant(0.1, 24000);
    x[12000] = 1;
    const params = { gain: 0, ceiling: -6, lookAhead: 5, release: 50 };
    const n = late(params);
    const out = through('limiter', params, x);
    const gain = (i: number) => out[i + n]! / x[i]!;
    expect(gain(12000)).toBeLessThanOrEqual(0.5013);
    expect(gain(11880)).toBeLessThan(0.99);
    expect(gain(11700)).toBeCloseTo(1, 6);
    expect(gain(12000 + 2400 + 240)).toBeGreaterThan(0.75);
    expect(gain(23000)).toBeGreaterThan(0.99);
  });

  it('turns both sides down alike when linked, and each by itself when not', () => {
    const loud = constant(1, 9600);
    const soft = constant(0.1, 9600);
    const [, linked] = both('limiter', { ceiling: -12, link: 100 }, loud, soft);
    const [, free] = both('limiter', { ceiling: -12, link: 0 }, loud, soft);
    expect(db(linked!.at(-1)! / 0.1)).toBeCloseTo(-12, 0);
    expect(free!.at(-1)).toBeCloseTo(0.1, 5);
  });

  it.each([44100, 48000, 192000])(
    'a ceiling that leaps acts on the frames of its own time, at %i Hz',
    (rate) => {
      const x = noise(24000, 5);
      const at = 12000;
      const lane = (from: number, to: number): Insert['lanes'] => ({
        ceiling: [
          [0, from],
          [at / rate, from],
          [at / rate, to],
        ],
      });
      const params = { lookAhead: 2, release: 5, gain: 12 };
      const n = limiter.latency(params, rate);
      const window = Math.round(0.002 * rate);
      const fixed = (ceiling: number) => through('limiter', { ...params, ceiling }, x, { rate });
      // A single peak is held below what the ceiling is when it comes in.
      const over = Math.max(120, Math.ceil(rate / 400));
      for (const [ceiling, away] of [
        [-20, -60],
        [-20, -1],
        [-6, over],
        [-6, over + 60],
      ] as const) {
        const peak = new Float32Array(24000);
        peak[at + away] = 1;
        const moved = through('limiter', params, peak, { rate, lanes: lane(-20, -6) });
        const still = through('limiter', { ...params, ceiling }, peak, { rate });
        expect(db(moved[at + away + n]! / still[at + away + n]!), `${away}`).toBeCloseTo(0, 2);
      }
      // Before it falls it may look ahead, and no further; what comes after the fall stays below it.
      const falling = through('limiter', params, x, { rate, lanes: lane(-6, -20) });
      const high = fixed(-6);
      const begins = falling.findIndex((v, i) => v !== high[i]) - n;
      expect(begins).toBeGreaterThan(at - window - 120);
      for (const [ceiling, from, to] of [
        [-20, at + over, 23000 - n],
        [-6, at - 4000, at],
      ] as const)
        expect(db(peakOf(falling.subarray(from + n, to + n)))).toBeLessThan(ceiling + 0.1);
    },
  );
});
