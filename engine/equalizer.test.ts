import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  bell,
  butterworthQs,
  highShelf,
  lowShelf,
  passSection,
  sectionsResponse,
} from '../core/processors/filter';
import { equalizer, EQUALIZER_BANDS } from '../core/processors/equalizer';
import { impulse, noise, peakOf, sine } from './testing/run';
import { gainAt, spectrum } from './testing/spectrum';
import { through } from './testing/through';

const RATE = 48000;

/**
 * Biquads written out anew from the W3C Audio EQ Cookbook (W3C Working Group Note, 8 June 2021): b0, b1, b2, a0, a1, a2.
 */
function cookbook(kind: string, f: number, gain: number, q: number, rate = RATE) {
  const A = 10 ** (gain / 40);
  const w = (2 * Math.PI * f) / rate;
  const c = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const r = 2 * Math.sqrt(A) * alpha;
  switch (kind) {
    case 'bell':
      return [1 + alpha * A, -2 * c, 1 - alpha * A, 1 + alpha / A, -2 * c, 1 - alpha / A];
    case 'lowShelf':
      return [
        A * (A + 1 - (A - 1) * c + r),
        2 * A * (A - 1 - (A + 1) * c),
        A * (A + 1 - (A - 1) * c - r),
        A + 1 + (A - 1) * c + r,
        -2 * (A - 1 + (A + 1) * c),
        A + 1 + (A - 1) * c - r,
      ];
    case 'highShelf':
      return [
        A * (A + 1 + (A - 1) * c + r),
        -2 * A * (A - 1 + (A + 1) * c),
        A * (A + 1 + (A - 1) * c - r),
        A + 1 - (A - 1) * c + r,
        2 * (A - 1 - (A + 1) * c),
        A + 1 - (A - 1) * c - r,
      ];
    case 'low':
      return [(1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + alpha, -2 * c, 1 - alpha];
    default:
      return [(1 - c) / 2, 1 - c, (1 - c) / 2, 1 + alpha, -2 * c, 1 - alpha];
  }
}
function biquadGain(k: number[], f: number, rate = RATE) {
  const w = (2 * Math.PI * f) / rate;
  const part = (a: number, b: number, c: number) =>
    Math.hypot(a + b * Math.cos(w) + c * Math.cos(2 * w), b * Math.sin(w) + c * Math.sin(2 * w));
  return 20 * Math.log10(part(k[0]!, k[1]!, k[2]!) / part(k[3]!, k[4]!, k[5]!));
}

const hertz = fc.double({ min: 20, max: 20000, noNaN: true });
const decibels = fc.double({ min: -24, max: 24, noNaN: true });
const quality = fc.double({ min: 0.1, max: 40, noNaN: true });

describe('the sections of an equalizer', () => {
  it.each(['bell', 'lowShelf', 'highShelf', 'low', 'high'])(
    'have the response of the Audio EQ Cookbook: %s',
    (kind) => {
      fc.assert(
        fc.property(hertz, decibels, quality, hertz, (f, gain, q, at) => {
          const section =
            kind === 'bell'
              ? bell(f, gain, q, RATE)
              : kind === 'lowShelf'
                ? lowShelf(f, gain, q, RATE)
                : kind === 'highShelf'
                  ? highShelf(f, gain, q, RATE)
                  : passSection(kind as 'low' | 'high', f, q, RATE);
          const wanted = biquadGain(cookbook(kind, f, gain, q), at);
          if (wanted > -120) expect(sectionsResponse([section], at, RATE)).toBeCloseTo(wanted, 5);
        }),
        { numRuns: 500 },
      );
    },
  );

  // Q of the pole pairs of Butterworth filters, as printed in handbooks: e.g. Zverev, "Handbook of filter synthesis",
  // 1967 (from memory, to three digits).
  it.each([
    [2, [0.707]],
    [3, [1]],
    [4, [0.541, 1.307]],
    [6, [0.518, 0.707, 1.932]],
    [8, [0.51, 0.601, 0.9, 2.563]],
  ])('of a Butterworth filter of order %s have the Qs of the handbook', (order, qs) => {
    const found = [...butterworthQs(order)].sort((a, b) => a - b);
    expect(found).toHaveLength(qs.length);
    found.forEach((q, i) => expect(q).toBeCloseTo(qs[i]!, 3));
  });
});

const cutParams = (kind: 'lowCut' | 'highCut', slope: number, f: number) => ({
  [`${kind}On`]: 1,
  [`${kind}Slope`]: slope,
  [`${kind}Frequency`]: f,
});
const SLOPES = [6, 12, 18, 24, 36, 48];

describe('the cuts', () => {
  it.each(SLOPES.map((s, i) => [s, i] as const))(
    'of %s dB per octave stand at -3.01 dB at their corner and fall so far in the next octave but one',
    (slope, index) => {
      for (const kind of ['lowCut', 'highCut'] as const) {
        const corner = kind === 'lowCut' ? 2000 : 500;
        const at = (f: number) => equalizer.responseAt!(f, cutParams(kind, index, corner), RATE);
        expect(at(corner)).toBeCloseTo(-3.0103, 3);
        const away = kind === 'lowCut' ? [corner / 16, corner / 8] : [corner * 4, corner * 8];
        const fall = Math.abs(at(away[0]!) - at(away[1]!));
        // Towards half the sample rate the bilinear transform makes a high cut steeper: never flatter than asked.
        expect(fall).toBeGreaterThan(slope - 0.1);
        expect(fall).toBeLessThan(slope * (kind === 'lowCut' ? 1.01 : 1.12));
      }
    },
  );
});

describe('the equalizer in the engine', () => {
  it('gives the response that its curve shows, whatever its bands, within 0.02 dB', () => {
    const band = fc.record({ f: hertz, gain: decibels, q: fc.double({ min: 0.3, max: 8, noNaN: true }) });
    fc.assert(
      fc.property(
        fc.tuple(band, band, band),
        fc.integer({ min: 0, max: 5 }),
        fc.boolean(),
        ([low, mid, high], slope, cuts) => {
          const params: Record<string, number> = {
            lowShelfFrequency: low.f,
            lowShelfGain: low.gain,
            bell2Frequency: mid.f,
            bell2Gain: mid.gain,
            bell2Q: mid.q,
            highShelfFrequency: high.f,
            highShelfGain: high.gain,
            ...(cuts ? { ...cutParams('lowCut', slope, 60), ...cutParams('highCut', slope, 15000) } : {}),
          };
          const out = through('equalizer', params, impulse(65536));
          for (const f of [40, 100, 400, 1000, 3000, 8000, 14000]) {
            const wanted = equalizer.responseAt!(f, params, RATE);
            if (wanted > -60) expect(Math.abs(gainAt(out, f, RATE) - wanted)).toBeLessThan(0.02);
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  it('keeps to its curve at its lowest frequency and highest Q', () => {
    const params = { bell1Frequency: 20, bell1Gain: 24, bell1Q: 40 };
    const tone = sine(20, RATE, 128 * 8000, 0.01);
    const out = through('equalizer', params, tone);
    expect(Math.abs(20 * Math.log10(peakOf(out.subarray(-9600)) / 0.01) - 24)).toBeLessThan(0.1);
  });

  it('adds no noise: what a 1 kHz tone leaves besides itself lies below -120 dB', () => {
    const tone = sine((RATE * 1365) / 65536, RATE, 65536 + 16384, 0.5);
    const out = through(
      'equalizer',
      { lowShelfFrequency: 60, lowShelfGain: 12, bell1Frequency: 100, bell1Gain: -12 },
      tone,
    );
    const levels = spectrum(out.subarray(16384));
    const rest = levels.filter((_, k) => Math.abs(k - 1365) > 6 && k > 4);
    expect(Math.max(...rest)).toBeLessThan(-120);
  });

  it('with every band at rest is the signal itself, to the bit', () => {
    const x = noise(12800);
    expect(through('equalizer', {}, x)).toEqual(x);
    expect(through('equalizer', { bell1Gain: 12, bell1On: 0, highCutFrequency: 20000 }, x)).toEqual(x);
  });

  it('describes eight bands, at most four controls each', () => {
    expect(EQUALIZER_BANDS).toHaveLength(8);
    for (const b of EQUALIZER_BANDS)
      expect(equalizer.parameters.filter((p) => p.group === b.name).length).toBeLessThanOrEqual(4);
  });
});
