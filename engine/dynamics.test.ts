import { describe, expect, it } from 'vitest';
import { deEsser } from '../core/processors/deEsser';
import { gate } from '../core/processors/gate';
import { limiter } from '../core/processors/limiter';
import { truePeak } from '../core/metering/truePeak';
import { Bench, constant, noise, peakOf, sine } from './testing/run';
import { sessionWith, through, both } from './testing/through';
import { packageTruePeak } from './testing/truePeakPackage';

const RATE = 48000;
const db = (x: number) => 20 * Math.log10(Math.abs(x));

describe('the gate', () => {
  // The static curve of an expander: DAFX, 2nd ed., chapter 4 (from memory): y = T + R (x - T) below T.
  it.each([
    [-50, -40, 2, 90],
    [-70, -40, 2, 90],
    [-45, -40, 4, 90],
    [-60, -40, 10, 30],
    [-20, -40, 10, 40],
  ])(
    'a level of %s dB under a threshold of %s at a ratio of %s comes out as the curve says',
    (x, T, R, range) => {
      const params = { threshold: T, ratio: R, range, hysteresis: 0, hold: 0, release: 5, attack: 0.05 };
      const out = through('gate', params, constant(10 ** (x / 20), 128 * 300));
      const wanted = x >= T ? x : Math.max(x - range, T + R * (x - T));
      expect(db(out.at(-1)!)).toBeCloseTo(wanted, 1);
      expect(x - gate.reductionAt!(x, params)).toBeCloseTo(wanted, 9);
    },
  );

  it('once open stays open down to its hysteresis, and opens at its threshold alone', () => {
    const params = {
      threshold: -30,
      ratio: 100,
      range: 60,
      hysteresis: 10,
      hold: 0,
      release: 5,
      attack: 0.05,
    };
    const level = (d: number) => 10 ** (d / 20);
    const x = new Float32Array(48000);
    x.fill(level(-35), 0, 12000); // below: closed
    x.fill(level(-25), 12000, 24000); // above: open
    x.fill(level(-35), 24000, 36000); // within the hysteresis: still open
    x.fill(level(-45), 36000, 48000); // below it: closed
    const out = through('gate', params, x);
    expect(db(out[11000]!) + 35).toBeLessThan(-50);
    expect(db(out[23000]!) + 25).toBeCloseTo(0, 2);
    expect(db(out[35000]!) + 35).toBeCloseTo(0, 2);
    expect(db(out[47000]!) + 45).toBeLessThan(-50);
  });

  it('holds for as long as asked, and not much longer', () => {
    const closesAfter = (hold: number) => {
      const x = constant(0.001, 48000);
      x.fill(0.5, 0, 4800);
      const params = { threshold: -20, ratio: 100, range: 60, hysteresis: 0, hold, release: 5, attack: 0.05 };
      const out = through('gate', params, x);
      return (out.findIndex((v, i) => i > 4800 && v < 0.0005) - 4800) / 48;
    };
    expect(Math.abs(closesAfter(300) - closesAfter(0) - 300)).toBeLessThan(1);
  });

  it('is opened by its key alone, heard through the key’s cuts', () => {
    const bench = (params: Record<string, number>) => {
      const x = constant(0.5, 38400);
      const low = sine(60, RATE, 38400, 0.5);
      const b = new Bench(
        sessionWith([
          { type: 'gate', key: 'k', params: { threshold: -20, range: 60, ratio: 100, ...params } },
        ]),
        { a: [x, x], k: [low, low] },
        { capture: ['a'] },
      );
      return b.run(300).a![0]!.at(-1)!;
    };
    expect(bench({})).toBeCloseTo(0.5, 3);
    expect(bench({ keyLowCut: 2000 })).toBeLessThan(0.001);
  });
});

describe('the de-esser', () => {
  const hiss = sine(11931, RATE, 48000, 0.5);
  const vowel = sine(300, RATE, 48000, 0.5);
  it('turns the band above its frequency down as its curve says, and leaves what lies below', () => {
    const params = { frequency: 2000, threshold: -30, ratio: 4, range: 24, release: 500, attack: 0.1 };
    const out = through('deEsser', params, hiss).subarray(-4800);
    const wanted = deEsser.reductionAt!(db(0.5), params);
    expect(db(0.5) - db(peakOf(out))).toBeGreaterThan(wanted - 2);
    expect(db(0.5) - db(peakOf(out))).toBeLessThan(wanted + 0.5);
    expect(db(peakOf(through('deEsser', params, vowel).subarray(-4800)))).toBeCloseTo(db(0.5), 1);
  });
  it('never takes more than its range', () => {
    const params = { frequency: 2000, threshold: -60, ratio: 20, range: 6, attack: 0.1, mode: 1 };
    expect(db(0.5) - db(peakOf(through('deEsser', params, hiss).subarray(-4800)))).toBeCloseTo(6, 1);
  });
  it('is the signal itself while the band is soft', () => {
    const x = noise(12800).map((v) => v * 1e-4);
    const out = through('deEsser', { threshold: 0 }, x);
    expect(out.every((v, i) => v === x[i])).toBe(true);
  });
  it('lets the band alone be heard: high tones pass, low ones do not', () => {
    const listen = { frequency: 4000, threshold: 0, mode: 2 };
    expect(db(peakOf(through('deEsser', listen, vowel).subarray(-4800)))).toBeLessThan(-40);
    expect(db(peakOf(through('deEsser', listen, hiss).subarray(-4800)))).toBeGreaterThan(-8);
  });
});

describe('the limiter', () => {
  const late = (params: Record<string, number>) => limiter.latency(params, RATE);

  it.each([
    ['noise', noise(48000, 7)],
    ['a full-scale square', Float32Array.from({ length: 48000 }, (_, i) => (i % 97 < 48 ? 1 : -1))],
    [
      'a tone whose peaks lie between the samples',
      Float32Array.from({ length: 48000 }, (_, i) => Math.sin((Math.PI / 2) * i + Math.PI / 4)),
    ],
    ['a tone at 11 kHz', sine(11025, RATE, 48000, 1)],
  ])('keeps the true peak of %s below its ceiling, by an independent meter (ebur128) too', (_name, x) => {
    for (const lookAhead of [0.5, 2, 10]) {
      const part = through('limiter', { gain: 9, ceiling: -1, lookAhead }, x).subarray(4800, 43200);
      // A cut would ring between its first samples: the excerpt begins and ends softly.
      const out = part.map((v, i) => v * Math.min(1, i / 960, (part.length - 1 - i) / 960));
      expect(db(truePeak(out))).toBeLessThan(-1 + 0.1);
      expect(packageTruePeak(RATE, out)).toBeLessThan(-1 + 0.15);
      expect(db(peakOf(out))).toBeLessThanOrEqual(-1 + 1e-3);
    }
  });

  it('is the signal itself, as late as it says, while nothing is too loud', () => {
    const x = noise(12800).map((v) => v * 0.3);
    for (const lookAhead of [0.5, 2, 10]) {
      const params = { gain: 0, ceiling: -0.1, lookAhead };
      const n = late(params);
      const out = through('limiter', params, x);
      expect(out.subarray(n).every((v, i) => Math.abs(v - x[i]!) < 1e-7)).toBe(true);
      expect(peakOf(out.subarray(0, n))).toBe(0);
    }
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
});
