import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { butterworthQs, passSection, sectionsResponse } from '../core/processors/filter';
import { bell, highShelf, lowShelf } from '../core/processors/matched';
import { equalizer, EQUALIZER_BANDS } from '../core/processors/equalizer';
import { analogue } from './testing/prototypes';
import { impulse, noise, peakOf, sine } from './testing/run';
import { gainAt, spectrum } from './testing/spectrum';
import { through } from './testing/through';

const RATE = 48000;

/**
 * Biquads written out anew from the W3C Audio EQ Cookbook (W3C Working Group Note, 8 June 2021): b0, b1, b2, a0, a1, a2.
 */
function cookbook(kind: string, f: number, q: number, rate = RATE) {
  const w = (2 * Math.PI * f) / rate;
  const c = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  switch (kind) {
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

const PLACES = Array.from({ length: 60 }, (_, i) => 20 * 1000 ** (i / 59));

/** M. Vicanek, "Matched second order digital filters", 2016, the peaking filter of section 4 (from memory). */
function vicanek(f: number, gain: number, q: number, rate: number) {
  const G = 10 ** (gain / 20);
  const w = (2 * Math.PI * f) / rate;
  const d = 1 / (2 * Math.sqrt(G) * q);
  const a1 =
    d <= 1
      ? -2 * Math.exp(-d * w) * Math.cos(Math.sqrt(1 - d * d) * w)
      : -2 * Math.exp(-d * w) * Math.cosh(Math.sqrt(d * d - 1) * w);
  const a2 = Math.exp(-2 * d * w);
  const p1 = Math.sin(w / 2) ** 2;
  const p0 = 1 - p1;
  const [A0, A1, A2] = [(1 + a1 + a2) ** 2, (1 - a1 + a2) ** 2, -4 * a2];
  const R1 = (A0 * p0 + A1 * p1 + A2 * 4 * p0 * p1) * G * G;
  const R2 = (-A0 + A1 + 4 * (p0 - p1) * A2) * G * G;
  const B0 = A0;
  const B2 = (R1 - R2 * p1 - B0) / (4 * p1 * p1);
  const B1 = R2 + B0 - 4 * (p0 - p1) * B2;
  const W = (Math.sqrt(B0) + Math.sqrt(B1)) / 2;
  const b0 = (W + Math.sqrt(W * W + B2)) / 2;
  return [b0, (Math.sqrt(B0) - Math.sqrt(B1)) / 2, -B2 / (4 * b0), 1, a1, a2];
}

const hertz = fc.double({ min: 20, max: 20000, noNaN: true });
const decibels = fc.double({ min: -24, max: 24, noNaN: true });
const quality = fc.double({ min: 0.1, max: 40, noNaN: true });

describe('the sections of an equalizer', () => {
  it.each(['low', 'high'] as const)('of cuts have the response of the Audio EQ Cookbook: %s', (kind) => {
    fc.assert(
      fc.property(hertz, quality, hertz, (f, q, at) => {
        const wanted = biquadGain(cookbook(kind, f, q), at);
        if (wanted > -120)
          expect(sectionsResponse([passSection(kind, f, q, RATE)], at, RATE)).toBeCloseTo(wanted, 5);
      }),
      { numRuns: 500 },
    );
  });

  // Prototypes H(s) written out anew from the W3C Audio EQ Cookbook (W3C Working Group Note, 8 June 2021).
  it.each([44100, 48000, 96000, 192000])(
    'of bells and shelves follow their analogue prototypes to 20 kHz within 0.5 dB at %s Hz',
    (rate) => {
      for (const kind of ['bell', 'lowShelf', 'highShelf'] as const)
        fc.assert(
          fc.property(
            hertz,
            decibels,
            fc.double({ min: Math.log(0.1), max: Math.log(kind === 'bell' ? 40 : 2), noNaN: true }),
            (f, gain, logQ) => {
              const q = Math.exp(logQ);
              const section = { bell, lowShelf, highShelf }[kind](f, gain, q, rate);
              for (const at of [f, ...PLACES]) {
                const off = sectionsResponse([section], at, rate) - analogue(kind, f, gain, q, at);
                expect(Math.abs(off), `${f} Hz, ${gain} dB, Q ${q}, at ${at} Hz`).toBeLessThan(0.5);
              }
            },
          ),
          { numRuns: 300 },
        );
    },
  );

  it('of a bell lie nearer to the prototype than the bilinear transform, and no further than the matched design of Vicanek', () => {
    let worse = 0;
    for (const rate of [44100, 48000])
      for (const f of [2000, 6000, 9000, 12000, 15000])
        for (const gain of [3, 6, 12])
          for (const q of [0.5, 0.7, 1, 2, 4]) {
            const most = (level: (at: number) => number) =>
              Math.max(...PLACES.map((at) => Math.abs(level(at) - analogue('bell', f, gain, q, at))));
            const ours = most((at) => sectionsResponse([bell(f, gain, q, rate)], at, rate));
            const his = most((at) => biquadGain(vicanek(f, gain, q, rate), at, rate));
            worse = Math.max(worse, ours - his);
            if (f >= 9000 && q < 1) expect(ours).toBeLessThan(his + 0.05);
          }
    expect(worse).toBeLessThan(0.2);
    // The bilinear transform leaves this one 5.4 dB short.
    const there = sectionsResponse([bell(12000, 12, 0.7, 44100)], 20000, 44100);
    expect(Math.abs(there - analogue('bell', 12000, 12, 0.7, 20000))).toBeLessThan(0.5);
  });

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
    // Lower, a narrow bell rings on for longer than the impulse response is taken.
    const band = fc.record({
      f: fc.double({ min: 80, max: 20000, noNaN: true }),
      gain: decibels,
      q: fc.double({ min: 0.3, max: 8, noNaN: true }),
    });
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
