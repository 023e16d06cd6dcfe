import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  DYNAMIC_BANDS,
  dynamicEqualizer,
  dynamicGain,
  dynamicSection,
} from '../core/processors/dynamicEqualizer';
import { sectionsResponse } from '../core/processors/filter';
import { analogue } from './testing/prototypes';
import { Bench, impulse, noise, sine } from './testing/run';
import { gainAt, spectrum } from './testing/spectrum';
import { sessionWith, through } from './testing/through';

const RATE = 48000;
const RATES = [44100, 48000, 96000, 192000];
const db = (x: number) => 20 * Math.log10(Math.abs(x));
const level = (decibels: number) => 10 ** (decibels / 20);
const PLACES = Array.from({ length: 60 }, (_, i) => 20 * 1000 ** (i / 59));
const of = (id: string) => DYNAMIC_BANDS.find((b) => b.id === id)!;

/** The amplitude of a tone in what stands still, in dB. */
function toneIn(audio: Float32Array, hertz: number, rate: number): number {
  let [re, im, sum] = [0, 0, 0];
  for (let i = 0; i < audio.length; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / audio.length);
    re += w * audio[i]! * Math.cos((2 * Math.PI * hertz * i) / rate);
    im += w * audio[i]! * Math.sin((2 * Math.PI * hertz * i) / rate);
    sum += w;
  }
  return db((2 * Math.hypot(re, im)) / sum);
}
const plus = (...all: Float32Array[]) => all[0]!.map((_, i) => all.reduce((sum, a) => sum + a[i]!, 0));

// Prototypes of the W3C Audio EQ Cookbook (W3C Working Group Note, 8 June 2021).
describe('a band of the dynamic equalizer', () => {
  it.each(RATES)('is within 0.5 dB of its prototype wherever it stands on its way, at %i Hz', (rate) => {
    fc.assert(
      fc.property(
        fc.constantFrom(...DYNAMIC_BANDS),
        fc.double({ min: 20, max: 20000, noNaN: true }),
        fc.double({ min: -24, max: 24, noNaN: true }),
        fc.double({ min: -24, max: 24, noNaN: true }),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (band, f, gain, range, shape, t) => {
          const q = band.kind === 'bell' ? 12 * shape : 2 * shape;
          const params = {
            [band.frequency.id]: f,
            [band.gain.id]: gain,
            [band.range.id]: range,
            [band.q.id]: q,
          };
          const section = dynamicSection(band, params, t, rate);
          const end = Math.max(-24, Math.min(24, gain + range));
          const now = gain + t * (end - gain);
          for (const at of PLACES) {
            const wanted = analogue(band.kind, f, now, q, at);
            expect(
              Math.abs(sectionsResponse([section], at, rate) - wanted),
              `${band.id} ${f} ${at}`,
            ).toBeLessThan(0.5);
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  it.each(RATES)('gives what its curve shows while nothing is over its threshold, at %i Hz', (rate) => {
    const params = {
      lowShelfGain: 6,
      lowShelfRange: -12,
      bell1Gain: -9,
      bell1Range: 9,
      bell1Threshold: 0,
      bell2Gain: 12,
      bell2Q: 4,
      bell2Range: -24,
      bell2Threshold: 0,
      highShelfGain: -4,
    };
    const x = impulse(65536).map((v) => v * 1e-3);
    const out = through('dynamicEqualizer', params, x, { rate }).map((v) => v * 1e3);
    for (const f of [40, 100, 400, 1000, 3000, 8000, 14000, 19000])
      expect(Math.abs(gainAt(out, f, rate) - dynamicEqualizer.responseAt!(f, params, rate))).toBeLessThan(
        0.02,
      );
  });

  it.each(RATES)(
    'goes by what is asked for a tone in its middle, and beside it as its prototype does, at %i Hz',
    (rate) => {
      for (const [f, beside, gain, range, threshold, ratio, Q] of [
        [400, 900, 0, -12, -40, 2, 1.4],
        [400, 250, 3, -18, -40, 20, 2],
        [2500, 4100, -6, 12, -30, 4, 1],
        [9000, 13000, 0, 9, -50, 3, 0.7],
        [9000, 6100, 6, -24, -60, 20, 3],
      ] as const) {
        const params = {
          bell2Frequency: f,
          bell2Q: Q,
          bell2Gain: gain,
          bell2Range: range,
          bell2Threshold: threshold,
          bell2Attack: 5,
          bell2Release: 1500,
          ratio,
        };
        const length = 128 * Math.ceil((rate * 0.6) / 128);
        const x = plus(sine(f, rate, length, level(-20)), sine(beside, rate, length, level(-90)));
        const out = through('dynamicEqualizer', params, x, { rate }).subarray(-Math.round(rate / 4));
        // What is asked: decibels over the threshold by the ratio, as far as the range.
        const goes = Math.sign(range) * Math.min(Math.abs(range), (1 - 1 / ratio) * (-20 - threshold));
        expect(dynamicGain(of('bell2'), -20, params)).toBeCloseTo(goes, 9);
        expect(Math.abs(toneIn(out, f, rate) + 20 - gain - goes), `${f} at ${rate}`).toBeLessThan(0.1);
        const wanted = analogue('bell', f, gain + goes, Q, beside);
        expect(Math.abs(toneIn(out, beside, rate) + 90 - wanted), `${beside} at ${rate}`).toBeLessThan(0.3);
      }
    },
  );

  // A one-pole filter of this time constant has gone 1 - 1/e of its way by then.
  it.each([5, 20, 80])(
    'has gone its way but for 1/e of it after an attack of %i ms, and comes back by its release',
    (attack) => {
      const params = {
        bell2Frequency: 6000,
        bell2Q: 0.7,
        bell2Range: -12,
        bell2Threshold: -40,
        bell2Attack: attack,
        bell2Release: 100,
        ratio: 20,
      };
      const length = 128 * 750;
      const [on, off] = [RATE / 2, (RATE * 3) / 2];
      const x = sine(6000, RATE, length, 1).map((v, i) => v * level(i >= on && i < off ? -6 : -60));
      const out = through('dynamicEqualizer', params, x);
      const at = (from: number) => db(Math.max(...out.subarray(from, from + 16).map(Math.abs)));
      const way = (frame: number, quiet: number) => (at(Math.round(frame)) - quiet) / -12;
      expect(way(on + (attack / 1000) * RATE, -6)).toBeCloseTo(1 - Math.exp(-1), 1);
      expect(way(off - 100, -6)).toBeCloseTo(1, 2);
      // What follows is an attack behind a release: after the second it has come back to e^-1 of its way and a little.
      const [a, r] = [attack, 100];
      const left = (r * Math.exp(-1) - a * Math.exp(-r / a)) / (r - a);
      expect(way(off + 0.1 * RATE, -60)).toBeCloseTo(left, 1);
    },
  );

  it('hears its own part of the spectrum alone', () => {
    const params = {
      lowShelfRange: -12,
      lowShelfThreshold: -40,
      highShelfRange: 12,
      highShelfThreshold: -40,
      lowShelfRelease: 1000,
      highShelfRelease: 1000,
      ratio: 20,
    };
    const probes = plus(sine(40, RATE, 48000, level(-90)), sine(15000, RATE, 48000, level(-90)));
    const heard = (x: Float32Array) => {
      const out = through('dynamicEqualizer', params, plus(x, probes)).subarray(-24000);
      return [toneIn(out, 40, RATE) + 90, toneIn(out, 15000, RATE) + 90] as const;
    };
    const [lowAlone, highStill] = heard(sine(60, RATE, 48000, level(-12)));
    expect(lowAlone).toBeCloseTo(analogue('lowShelf', 120, -12, 0.71, 40), 0);
    expect(highStill).toBeCloseTo(0, 1);
    const [lowStill, highAlone] = heard(sine(12000, RATE, 48000, level(-12)));
    expect(lowStill).toBeCloseTo(0, 1);
    expect(highAlone).toBeCloseTo(analogue('highShelf', 7000, 12, 0.71, 15000), 0);
    const [lowOfMid, highOfMid] = heard(sine(900, RATE, 48000, level(-24)));
    expect(lowOfMid).toBeCloseTo(0, 1);
    expect(highOfMid).toBeCloseTo(0, 1);
  });

  it('makes room by a key: a bass goes down where the drum sounds, by nothing of its own', () => {
    const params = {
      bell1Frequency: 60,
      bell1Range: -9,
      bell1Threshold: -30,
      bell1Release: 1000,
      ratio: 20,
    };
    const bass = sine(60, RATE, 48000, 0.5);
    const run = (drum: Float32Array) =>
      new Bench(
        sessionWith([{ type: 'dynamicEqualizer', params, key: 'k' }]),
        { a: [bass, bass], k: [drum, drum] },
        { capture: ['a'] },
      )
        .run(375)
        .a![0]!.subarray(-24000);
    expect(toneIn(run(new Float32Array(48000)), 60, RATE)).toBeCloseTo(db(0.5), 2);
    expect(toneIn(run(sine(60, RATE, 48000, 0.5)), 60, RATE)).toBeCloseTo(db(0.5) - 9, 1);
    expect(toneIn(run(sine(6000, RATE, 48000, 0.5)), 60, RATE)).toBeCloseTo(db(0.5), 1);
  });

  // The band-pass of constant 0 dB in its middle, W3C Audio EQ Cookbook.
  it('is listened to: what it hears takes the place of all else', () => {
    const params = { bell2Frequency: 2000, bell2Q: 2, bell2Gain: 6, highShelfGain: -12, listen: 3 };
    const out = through('dynamicEqualizer', params, impulse(65536));
    for (const f of [200, 1000, 2000, 3000, 8000]) {
      const w = (2 * Math.PI * f) / RATE;
      const w0 = (2 * Math.PI * 2000) / RATE;
      const alpha = Math.sin(w0) / 4;
      const part = (a: number, b: number, c: number) =>
        Math.hypot(a + b * Math.cos(w) + c * Math.cos(2 * w), b * Math.sin(w) + c * Math.sin(2 * w));
      const wanted = db(part(alpha, 0, -alpha) / part(1 + alpha, -2 * Math.cos(w0), 1 - alpha));
      expect(gainAt(out, f, RATE)).toBeCloseTo(wanted, 2);
    }
  });

  it('draws the softer side of a pair along by the link, and leaves it alone without', () => {
    const params = {
      bell2Frequency: 1000,
      bell2Range: -12,
      bell2Threshold: -40,
      bell2Release: 1000,
      ratio: 20,
    };
    const [loud, soft] = [sine(1000, RATE, 48000, level(-12)), sine(1000, RATE, 48000, level(-60))];
    const softened = (link: number) => {
      const out = through('dynamicEqualizer', { ...params, link }, soft, { right: loud });
      return toneIn(out.subarray(-24000), 1000, RATE) + 60;
    };
    expect(softened(100)).toBeCloseTo(-12, 1);
    expect(softened(0)).toBeCloseTo(0, 1);
  });

  // Total harmonic distortion: IEC 60268-3, 14.12.2 (from memory), the root of the harmonics' powers against that of all.
  it.each([44100, 48000, 96000, 192000])(
    'however quick, does not follow the waves of a low tone, at %i Hz',
    (rate) => {
      for (const [band, hertz] of [
        ['lowShelf', 40],
        ['lowShelf', 90],
        ['bell1', 60],
      ] as const) {
        const params = {
          [`${band}Frequency`]: band === 'bell1' ? 60 : 120,
          [`${band}Range`]: -12,
          [`${band}Threshold`]: -40,
          [`${band}Attack`]: 0.5,
          [`${band}Release`]: 10,
          ratio: 20,
        };
        const bin = Math.round((hertz * 65536) / rate);
        const tone = (bin * rate) / 65536;
        const out = through('dynamicEqualizer', params, sine(tone, rate, 65536 * 2, 0.5), { rate });
        const levels = spectrum(out.subarray(65536));
        const power = (k: number) => {
          let sum = 0;
          for (let i = k - 5; i <= k + 5; i++) sum += 10 ** (levels[i]! / 10);
          return sum;
        };
        let harmonics = 0;
        for (let n = 2; n <= 20; n++) harmonics += power(bin * n);
        expect(Math.sqrt(harmonics / (harmonics + power(bin))), `${band} ${hertz}`).toBeLessThan(0.005);
      }
    },
  );

  it('at rest is the signal itself, to the bit', () => {
    const x = noise(12800);
    expect(through('dynamicEqualizer', {}, x)).toEqual(x);
    const off = { bell1On: 0, bell1Gain: 12, bell1Range: -24, bell1Threshold: -80 };
    expect(through('dynamicEqualizer', off, x)).toEqual(x);
  });
});
