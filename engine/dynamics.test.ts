import { describe, expect, it } from 'vitest';
import { deEsser } from '../core/processors/deEsser';
import { gate } from '../core/processors/gate';
import { Bench, constant, noise, peakOf, sine } from './testing/run';
import { sessionWith, through } from './testing/through';

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

  it.each([44100, 48000, 96000, 192000])('holds for as long as asked, to the frame, at %i Hz', (rate) => {
    const ends = Math.round(rate / 10);
    for (const hold of [0, 2, 5, 20, 300]) {
      const x = constant(0.001, 128 * Math.ceil((rate * 0.5) / 128));
      x.fill(0.5, 0, ends);
      const params = { threshold: -20, ratio: 100, range: 60, hysteresis: 0, hold, release: 5, attack: 0.05 };
      const out = through('gate', params, x, { rate });
      const closes = out.findIndex((v, i) => i > ends && v < 0.000999);
      // It stays open for 2.5 ms at least, as its page says; a release of 5 ms shows within a frame or two.
      expect(closes - ends).toBeGreaterThanOrEqual(Math.round((Math.max(2.5, hold) / 1000) * rate) - 1);
      expect(closes - ends).toBeLessThan((Math.max(2.5, hold) / 1000) * rate + 3);
    }
  });

  it('begins closed, and opens with the first frame that reaches its threshold', () => {
    const x = constant(0.001, 9600);
    const early = through('gate', {}, x);
    expect(peakOf(early)).toBeLessThan(0.001 * 10 ** (-40 / 20) * 1.001);
    x.fill(0.5, 4800);
    const out = through('gate', { attack: 0.05 }, x);
    expect(peakOf(out.subarray(0, 4800))).toBeLessThan(1.1e-5);
    // Two and a half time constants of 0.05 ms.
    expect(out[4800 + 48]).toBeGreaterThan(0.499);
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
  it.each([44100, 48000, 96000, 192000])(
    'turns its band down by what is asked for, and nothing else, at %i Hz',
    (rate) => {
      const params = { frequency: 6000, threshold: -30, ratio: 4, range: 10 };
      const takes = (hertz: number) => {
        const x = sine(hertz, rate, 128 * 300, 0.5);
        const out = through('deEsser', params, x, { rate }).subarray(-9600);
        const rms = (a: Float32Array) => Math.sqrt(a.reduce((p, v) => p + v * v, 0) / a.length);
        return db(rms(x.subarray(-9600)) / rms(out));
      };
      for (const hertz of [6000, 7000, 9000, 13000, 20000]) expect(takes(hertz)).toBeCloseTo(10, 0.3);
      for (const hertz of [100, 1000, 4000, 5400]) expect(Math.abs(takes(hertz))).toBeLessThan(0.1);
    },
  );
  it('follows its curve below its range', () => {
    const params = { frequency: 2000, threshold: -30, ratio: 4, range: 24, release: 500, attack: 0.1 };
    const out = through('deEsser', params, hiss).subarray(-4800);
    const wanted = deEsser.reductionAt!(db(0.5), params);
    expect(db(0.5) - db(peakOf(out))).toBeCloseTo(wanted, 0);
    expect(db(peakOf(through('deEsser', params, vowel).subarray(-4800)))).toBeCloseTo(db(0.5), 1);
  });
  it('never takes more than its range', () => {
    const params = { frequency: 2000, threshold: -60, ratio: 20, range: 6, attack: 0.1, mode: 1 };
    expect(db(0.5) - db(peakOf(through('deEsser', params, hiss).subarray(-4800)))).toBeCloseTo(6, 1);
  });
  it('is the signal itself while the band is soft', () => {
    const x = noise(12800).map((v) => v * 1e-4);
    const out = through('deEsser', { threshold: 0 }, x).subarray(deEsser.latency({}, RATE));
    expect(out.every((v, i) => v === x[i])).toBe(true);
  });
  it('lets the band alone be heard: high tones pass, low ones do not', () => {
    const listen = { frequency: 4000, threshold: 0, mode: 2 };
    expect(db(peakOf(through('deEsser', listen, vowel).subarray(-4800)))).toBeLessThan(-40);
    expect(db(peakOf(through('deEsser', listen, hiss).subarray(-4800)))).toBeGreaterThan(-8);
  });
});
