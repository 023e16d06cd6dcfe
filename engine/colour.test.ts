import { describe, expect, it } from 'vitest';
import { pitchShift } from '../core/processors/pitchShift';
import { saturation, OVERSAMPLING_LATENCY, SATURATION_CURVES } from '../core/processors/saturation';
import { balance } from '../core/levels/pan';
import { impulse, noise, peakOf, sine } from './testing/run';
import { gainAt, spectrum } from './testing/spectrum';
import { both, through } from './testing/through';

const RATE = 48000;
const db = (x: number) => 20 * Math.log10(Math.abs(x));
const N = 65536;
/** A sine on a bin, so that harmonics lie on bins and aliases do not hide in the window. */
const onBin = (hertz: number, gain: number) => {
  const k = Math.round((hertz * N) / RATE);
  return { k, audio: sine((k * RATE) / N, RATE, N + 16384, gain) };
};

describe('saturation', () => {
  // Levels of a tone's harmonics and the highest of what else is there, by a spectrum that they fall on lines of.
  const bentTone = (hertz: number, gain: number, params: Record<string, number>, rate: number) => {
    const k = Math.round((hertz * N) / rate);
    const out = through('saturation', params, sine((k * rate) / N, rate, N + 16384, gain), { rate });
    const levels = spectrum(out.subarray(16384));
    const alias = levels.map((v, bin) =>
      // The mean stands at 0.
      bin > 4 && Math.abs(bin - Math.round(bin / k) * k) > 5 ? v : -300,
    );
    return { harmonics: [1, 2, 3, 4, 5, 7].map((n) => levels[n * k] ?? -300), alias: Math.max(...alias) };
  };
  const curves = SATURATION_CURVES.map((name, character) => [name, character] as const);
  it.each(curves)(
    'keeps aliases of loud tones up to 10 kHz below -80 dBFS at full drive: %s',
    (_, character) => {
      for (const hertz of [1200, 5100, 7300, 10000])
        expect(bentTone(hertz, 1, { drive: 24, character }, 44100).alias, `${hertz} Hz`).toBeLessThan(-80);
      expect(bentTone(10000, 0.5, { drive: 12, character }, 96000).alias).toBeLessThan(-90);
      expect(bentTone(15000, 1, { drive: 24, character }, 44100).alias).toBeLessThan(-72);
    },
  );
  it('has curves that harmonics tell apart', () => {
    const found = curves.map(
      ([, character]) => bentTone(500, 0.5, { drive: 12, character }, 48000).harmonics,
    );
    for (let i = 0; i < found.length; i++) {
      expect(found[i]![2]!).toBeGreaterThan(-50);
      expect(found[i]![1]! > -60).toBe(curves[i]![0] === 'One-sided');
      for (let j = 0; j < i; j++)
        expect(
          Math.max(
            ...found[i]!.slice(2).map((v, n) =>
              Math.abs(Math.max(v, -90) - Math.max(found[j]![n + 2]!, -90)),
            ),
          ),
        ).toBeGreaterThan(3);
    }
  });
  it.each(curves)('keeps the level where it is asked to, from no drive to full: %s', (_, character) => {
    const power = (x: Float32Array) => x.subarray(48000).reduce((s, v) => s + v * v, 0);
    for (const x of [noise(96000).map((v) => v * 0.3), sine(220, RATE, 96000, 0.7)])
      for (const drive of [0, 12, 24]) {
        const out = through('saturation', { drive, character, keep: 1 }, x);
        expect(Math.abs(10 * Math.log10(power(out) / power(x)))).toBeLessThan(0.5);
      }
  });

  it('passes soft signals at their own level, as late as it says, flat to 18 kHz', () => {
    const out = through(
      'saturation',
      { drive: 12 },
      impulse(4096, 100).map((v) => v * 1e-4),
    );
    expect(out.indexOf(peakOf(out))).toBe(100 + OVERSAMPLING_LATENCY);
    for (const hertz of [100, 1000, 8000, 18000]) expect(gainAt(out, hertz, RATE) + 80).toBeCloseTo(0, 1);
  });

  it('rounds a loud tone off as its curve says', () => {
    for (const drive of [6, 12, 18]) {
      const out = through('saturation', { drive }, sine(100, RATE, 48000, 0.5)).subarray(-9600);
      const wanted = db(0.5) - saturation.reductionAt!(db(0.5), { drive });
      expect(db(peakOf(out))).toBeCloseTo(wanted, 1);
    }
  });

  it('mixes with a dry signal that is as late: at any mix soft signals add up to themselves', () => {
    const x = sine(1000, RATE, 24000, 1e-3);
    for (const mix of [0, 0.5, 1]) {
      const out = through('saturation', {}, x, { mix });
      const late = out.subarray(4000 + OVERSAMPLING_LATENCY, 20000);
      expect(late.every((v, i) => Math.abs(v - x[4000 + i]!) < 1e-6)).toBe(true);
    }
  });
});

describe('bits and rate', () => {
  it('rounds to the steps of its bit depth', () => {
    for (const bits of [1, 4, 8, 16]) {
      const step = 2 ** (1 - bits);
      const out = through('crusher', { bits }, noise(12800));
      expect(out.every((v) => Math.abs(v / step - Math.round(v / step)) < 1e-6)).toBe(true);
      expect(new Set(out).size).toBeLessThanOrEqual(2 ** bits + 1);
    }
  });
  it('makes quantization noise of 6.02 dB a bit under a full-scale sine (Bennett 1948: 6.02 n + 1.76 dB)', () => {
    const { audio } = onBin(997, 1);
    for (const bits of [6, 8, 10]) {
      const out = through('crusher', { bits, dither: 0 }, audio).subarray(16384);
      const error = out.map((v, i) => v - audio[16384 + i]!);
      const snr = 10 * Math.log10(0.5 / (error.reduce((s, v) => s + v * v, 0) / error.length));
      expect(Math.abs(snr - (6.02 * bits + 1.76))).toBeLessThan(1);
    }
  });
  // A sine of one step rounds to pulses of 120 degrees, whose fifth harmonic is strong (and whose third is none).
  it('with dither leaves no distortion of a soft tone, but noise (Lipshitz et al., 1992)', () => {
    const { k, audio } = onBin(1000, 2 ** -7);
    const fifth = (dither: number) =>
      spectrum(through('crusher', { bits: 8, dither }, audio).subarray(16384))[5 * k]!;
    expect(fifth(0)).toBeGreaterThan(-60);
    expect(fifth(1)).toBeLessThan(-75);
  });
  it('holds each value for as long as a tick of its rate', () => {
    const out = through('crusher', { bits: 24, rate: 12000 }, noise(9600));
    let changes = 0;
    for (let i = 1; i < out.length; i++) if (out[i] !== out[i - 1]) changes++;
    expect(changes).toBe(Math.floor((out.length - 1) / 4));
  });
});

describe('pitch shift', () => {
  /** Frequency by the strongest bin and a parabola through it and its neighbours. */
  function frequency(audio: Float32Array): number {
    const levels = spectrum(audio);
    let k = 2;
    for (let i = 2; i < levels.length - 1; i++) if (levels[i]! > levels[k]!) k = i;
    const [a, b, c] = [levels[k - 1]!, levels[k]!, levels[k + 1]!];
    return ((k + (0.5 * (a - c)) / (a - 2 * b + c)) * RATE) / audio.length;
  }
  it.each([-12, -7, -3, -1, 1, 4, 7, 12])(
    'by %s semitones gives 2^(n/12) times the frequency, within 3 cents',
    (n) => {
      for (const hertz of [220, 440]) {
        const out = through('pitch', { semitones: n }, sine(hertz, RATE, N + 16384, 0.5)).subarray(16384);
        const wanted = hertz * 2 ** (n / 12);
        expect(Math.abs(1200 * Math.log2(frequency(out) / wanted))).toBeLessThan(3);
        // The tone stays whole: nothing else comes near it.
        expect(peakOf(out)).toBeGreaterThan(0.4);
        expect(peakOf(out)).toBeLessThan(0.6);
      }
    },
  );
  it('by nothing is the signal itself, as late as it says', () => {
    const x = noise(24000);
    const late = pitchShift.latency({}, RATE);
    const out = through('pitch', {}, x);
    expect(out.subarray(late).every((v, i) => v === x[i])).toBe(true);
  });
  // 220, 277.18 and 329.63 Hz: A3, C sharp 4, E4 of equal temperament.
  const CHORD = [220, 277.18, 329.63];
  it.each([-7, -3, 3, 7])(
    'by %s semitones leaves a chord clean: nothing else within 45 dB of its tones',
    (semitones) => {
      const chord = Float32Array.from({ length: 2 * N + 16384 }, (_, i) =>
        CHORD.reduce((s, f) => s + 0.2 * Math.sin((2 * Math.PI * f * i) / RATE), 0),
      );
      const levels = spectrum(through('pitch', { semitones }, chord).subarray(16384));
      let [tones, rest] = [0, 0];
      levels.forEach((level, k) => {
        const hertz = (k * RATE) / (2 * N);
        const near = CHORD.some((f) => Math.abs(hertz - f * 2 ** (semitones / 12)) < 4);
        if (k > 2 && near) tones += 10 ** (level / 10);
        else if (k > 2) rest += 10 ** (level / 10);
      });
      expect(10 * Math.log10(tones / rest)).toBeGreaterThan(45);
    },
  );
  it.each([
    [-12, 0],
    [-12, 1],
    [-3, 1],
    [3, 1],
    [7, 0],
    [12, 1],
  ])('by %s semitones leaves hits where they are, with grains %s', (semitones, grain) => {
    const late = pitchShift.latency({ grain }, RATE);
    const places = [4000, 18000, 31000, 47000, 60500, 75000];
    const x = new Float32Array(96000);
    const chance = noise(96000, 9);
    places.forEach((t, h) => {
      for (let i = 0; i < 6000; i++)
        x[t + i]! +=
          h % 2 === 0
            ? Math.sin((2 * Math.PI * 180 * i) / RATE) * Math.exp(-i / 1200)
            : 0.2 * chance[i]! * Math.exp(-i / 300) +
              0.5 * Math.sin((2 * Math.PI * 900 * i) / RATE) * Math.exp(-i / 500);
    });
    const out = through('pitch', { semitones, grain }, x).subarray(late);
    // Power in windows of a millisecond: where it first comes to a tenth of its highest, and how high that is.
    const power = (a: Float32Array, i: number) => a.subarray(i, i + 48).reduce((s, v) => s + v * v, 0);
    const hit = (a: Float32Array, t: number) => {
      const list = Array.from({ length: 500 }, (_, k) => power(a, t - 2000 + 8 * k));
      const top = Math.max(...list);
      return { at: t - 2000 + 8 * list.findIndex((p) => p > top / 10), top };
    };
    for (const t of places) {
      const [was, is] = [hit(x, t), hit(out, t)];
      expect(Math.abs(is.at - was.at) / 48).toBeLessThan(2);
      expect(Math.abs(10 * Math.log10(is.top / was.top))).toBeLessThan(Math.abs(semitones) > 7 ? 3 : 2);
    }
  });
  it('keeps formants where they are when asked to', () => {
    // A voice of 140 Hz with hills at 700 and 2600 Hz.
    const hill = (f: number, m: number, w: number) => 1 / (1 + ((f - m) / w) ** 2);
    const voice = Float32Array.from({ length: N + 16384 }, (_, i) => {
      let s = 0;
      for (let n = 1; n < 36; n++)
        s +=
          0.2 *
          (hill(140 * n, 700, 120) + 0.5 * hill(140 * n, 2600, 150)) *
          Math.sin((2 * Math.PI * 140 * n * i) / RATE + n * n);
      return s;
    });
    // Where the two hills stand, by the centre of the power about them.
    const centre = (params: Record<string, number>, from: number, to: number) => {
      const levels = spectrum(through('pitch', params, voice).subarray(16384));
      let [sum, weight] = [0, 0];
      for (let k = Math.round((from * N) / RATE); k < (to * N) / RATE; k++) {
        sum += 10 ** (levels[k]! / 10) * k;
        weight += 10 ** (levels[k]! / 10);
      }
      return ((sum / weight) * RATE) / N;
    };
    for (const semitones of [-5, 5]) {
      const ratio = 2 ** (semitones / 12);
      for (const [at, from, to] of [
        [700, 350, 1300],
        [2600, 1700, 3900],
      ] as const) {
        const plain = centre({ semitones: 0, cents: 1 }, from, to);
        expect(Math.abs(centre({ semitones, formants: 1 }, from, to) / plain - 1), `${at} Hz`).toBeLessThan(
          0.11,
        );
        const moved = centre({ semitones }, from, to) / plain;
        expect(Math.sign(moved - 1)).toBe(Math.sign(ratio - 1));
        expect(Math.abs(moved - 1)).toBeGreaterThan(0.18);
      }
    }
  });
  it('takes a change of pitch up where its signal is, and not before', () => {
    const x = sine(400, RATE, 96000, 0.5);
    const late = pitchShift.latency({}, RATE);
    const lane = {
      semitones: [
        [0, 0],
        [0.8, 0],
        [0.8, 12],
      ],
    } as const;
    const out = through('pitch', {}, x, {
      lanes: lane as unknown as Record<string, [number, number][]>,
    }).subarray(late);
    for (let i = 0; i < 38400 - 4096; i++) expect(Math.abs(out[i]! - x[i]!)).toBeLessThan(1e-4);
    expect(frequency(out.subarray(44000, 44000 + 32768))).toBeCloseTo(800, 0);
  });
});

describe('bits and rate', () => {
  it.each([44100, 48000, 96000, 192000])(
    'are the signal itself at the ends of their travels, at %i Hz',
    (rate) => {
      const x = noise(12800, 4);
      expect(through('crusher', { bits: 24, rate: 48000 }, x, { rate })).toEqual(x);
    },
  );
});

describe('chorus', () => {
  it('of one voice without depth is a delay', () => {
    const out = through('chorus', { voices: 1, depth: 0, time: 10 }, impulse(4096, 100));
    expect(out.indexOf(peakOf(out))).toBe(100 + 480);
    expect(peakOf(out)).toBeCloseTo(1, 5);
  });
  it('moves a tone up and down by what its sine makes of the delay', () => {
    // A delay d(t) = t0 + D sin(2 pi r t) reads at the rate 1 - d'(t): the highest frequency is f (1 + 2 pi r D).
    const [rate, depth] = [5, 4];
    const out = through(
      'chorus',
      { voices: 1, depth, rate, time: 12 },
      sine(1000, RATE, N * 2, 0.5),
    ).subarray(N);
    const crossings: number[] = [];
    for (let i = 1; i < out.length; i++)
      if (out[i - 1]! < 0 && out[i]! >= 0) crossings.push(i - out[i]! / (out[i]! - out[i - 1]!));
    const rates = crossings.slice(1).map((c, i) => RATE / (c - crossings[i]!));
    const swing = 2 * Math.PI * rate * (depth / 1000);
    // A delay that moves by D' changes the frequency by the factor 1 - D': Dattorro, "Effect Design, Part 2", JAES 1997.
    expect(Math.abs(Math.max(...rates) / 1000 - (1 + swing))).toBeLessThan(0.005);
    expect(Math.abs(Math.min(...rates) / 1000 - (1 - swing))).toBeLessThan(0.005);
  });
  it.each([2, 3, 4])('of %i voices is wide: both sides go their own ways', (voices) => {
    const x = noise(128 * 800, 3);
    const [l, r] = both('chorus', { voices, depth: 4 }, x, x).map((c) => c.subarray(9600));
    const dot = (a: Float32Array, b: Float32Array) => a.reduce((s, v, i) => s + v * b[i]!, 0);
    expect(Math.abs(dot(l!, r!)) / Math.sqrt(dot(l!, l!) * dot(r!, r!))).toBeLessThan(0.5);
    // And as loud as what went in.
    expect(Math.abs(10 * Math.log10(dot(l!, l!) / dot(x.subarray(9600), x.subarray(9600))))).toBeLessThan(1);
  });
  it('takes nothing from what is high, and adds nothing by reading between frames', () => {
    for (const [hertz, depth] of [
      [18000, 2],
      [1000, 5],
    ] as const) {
      const bin = Math.round((hertz * 65536) / 44100);
      const tone = sine((bin * 44100) / 65536, 44100, 65536 + 8192, 0.5);
      const params = { voices: 1, depth, time: 12.345, rate: 0.3 };
      const out = through('chorus', params, tone, { rate: 44100 }).subarray(8192, 8192 + 65536);
      const power = out.reduce((s, v) => s + v * v, 0) / out.length;
      expect(Math.abs(10 * Math.log10(power / 0.125))).toBeLessThan(0.1);
      const rest = spectrum(out).filter((_, k) => Math.abs(k - bin) > 400);
      expect(Math.max(...rest)).toBeLessThan(-80 - 6);
    }
  });
  it('sounds different on both sides when spread, and the same when not', () => {
    const x = noise(24000);
    const [l, r] = both('chorus', { spread: 100 }, x, x);
    expect(peakOf(l!.map((v, i) => v - r![i]!))).toBeGreaterThan(0.1);
    const [a, b] = both('chorus', { spread: 0 }, x, x);
    expect(a).toEqual(b);
  });
});

describe('the stereo tool', () => {
  const left = noise(12800, 1);
  const right = noise(12800, 2);
  const run = (params: Record<string, number>) => both('stereo', params, left, right);
  it('at rest is the signal itself', () => {
    const [l, r] = run({});
    expect(l).toEqual(left);
    expect(r).toEqual(right);
  });
  it('narrows and widens by M + wS and M - wS (session format, width)', () => {
    for (const w of [0, 0.5, 1.5, 2]) {
      const [l, r] = run({ width: w * 100 });
      for (const i of [5, 500, 12000]) {
        const m = (left[i]! + right[i]!) / 2;
        const s = (w * (left[i]! - right[i]!)) / 2;
        expect(l![i]).toBeCloseTo(m + s, 5);
        expect(r![i]).toBeCloseTo(m - s, 5);
      }
    }
  });
  it('swaps, inverts and balances', () => {
    expect(run({ swap: 1 })[0]).toEqual(right);
    expect(run({ polarity: 1 })[0]![77]).toBe(-left[77]!);
    expect(run({ polarity: 2 })[1]![77]).toBe(-right[77]!);
    const [gain] = balance(0.5);
    expect(run({ balance: 50 })[0]![99]).toBeCloseTo(gain * left[99]!, 5);
  });
  it('makes both sides the same below its frequency, and leaves what lies above', () => {
    const difference = (hertz: number) => {
      const x = sine(hertz, RATE, 24000, 0.5);
      const [l, r] = both(
        'stereo',
        { monoBelow: 200 },
        x,
        x.map((v) => -v),
      );
      return db(peakOf(l!.map((v, i) => (v - r![i]!) / 2).subarray(12000)) / 0.5);
    };
    expect(difference(25)).toBeLessThan(-34);
    expect(difference(200)).toBeCloseTo(-3.01, 1);
    expect(difference(3000)).toBeCloseTo(0, 1);
  });
});

describe('gain', () => {
  it('is 10^(dB/20), and a polarity', () => {
    const x = noise(1280);
    const out = through('gain', { gain: -6, invert: 1 }, x);
    expect(out[640]).toBeCloseTo(-(10 ** (-6 / 20)) * x[640]!, 6);
  });
});
