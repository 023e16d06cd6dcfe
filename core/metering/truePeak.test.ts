import { describe, expect, it } from 'vitest';
import { packageTruePeak } from '../../engine/testing/meterPackage';
import FFT from 'fft.js';
import { TRUE_PEAK_TAPS, truePeak, TruePeakMeter } from './truePeak';

const RATE = 48000;
const db = (x: number) => 20 * Math.log10(x);
/** A tone under a smooth start and end, so that nothing rings at its edges. */
const tone = (hertz: number, gain: number, phase: number) =>
  Float32Array.from({ length: 9600 }, (_, i) => {
    const edge = Math.min(1, i / 2400, (9599 - i) / 2400);
    return gain * edge * Math.sin((2 * Math.PI * hertz * i) / RATE + phase);
  });

describe('the true peak', () => {
  // EBU Tech 3341, table 1, signals 15 to 18: sines at fs/4 at 0 and 45 degrees, fs/6 at 60, fs/8 at 67.5, amplitude 0.5:
  // -6.0 dBTP, +0.2 / -0.4 dB (from memory).
  it.each([
    [4, 0],
    [4, 45],
    [6, 60],
    [8, 67.5],
  ])('of a sine at fs/%s, phase %s degrees, is its amplitude, within +0.2 and -0.4 dB', (part, degrees) => {
    const x = tone(RATE / part, 0.5, (degrees * Math.PI) / 180);
    expect(db(truePeak(x)) - db(0.5)).toBeLessThan(0.2);
    expect(db(truePeak(x)) - db(0.5)).toBeGreaterThan(-0.4);
  });

  it('agrees with an independent meter (ebur128) within 0.4 dB on tones of all kinds', () => {
    for (const hertz of [997, 3150, 8000, 11000, 15000, 18000])
      for (const phase of [0, 0.7, 1.9]) {
        const x = tone(hertz, 0.8, phase);
        expect(Math.abs(db(truePeak(x)) - packageTruePeak(RATE, x))).toBeLessThan(0.4);
      }
  });

  it('is never lower than the highest sample', () => {
    const x = Float32Array.from({ length: 4800 }, (_, i) => Math.sin(i * i));
    expect(truePeak(x)).toBeGreaterThanOrEqual(x.reduce((m, v) => Math.max(m, Math.abs(v)), 0));
  });

  it('interpolates by phases that pass 0 Hz at about 1 and mirror each other', () => {
    for (const taps of TRUE_PEAK_TAPS) expect(taps.reduce((a, b) => a + b)).toBeCloseTo(1, 1);
    expect([...TRUE_PEAK_TAPS[3]!].reverse()).toEqual(TRUE_PEAK_TAPS[0]);
    expect([...TRUE_PEAK_TAPS[2]!].reverse()).toEqual(TRUE_PEAK_TAPS[1]);
  });
});

describe('the finer measure of a print', () => {
  const measured = (x: Float32Array, piece = 1000) => {
    const meter = new TruePeakMeter(1);
    for (let at = 0; at < x.length; at += piece) meter.push(x.subarray(at, at + piece));
    return meter.end();
  };
  it.each([
    [4, 0],
    [4, 45],
    [6, 60],
    [8, 67.5],
  ])('of a sine at fs/%s, phase %s degrees, is its amplitude within 0.1 dB', (part, degrees) => {
    const x = tone(RATE / part, 0.5, (degrees * Math.PI) / 180);
    expect(Math.abs(db(measured(x)) - db(0.5))).toBeLessThan(0.1);
  });
  // EBU Tech 3341, signal 19: fs/4 at 45 degrees, amplitude 1.41: +3.0 dBTP.
  it('of a sine that its samples hide by 3 dB is +3 dBTP', () =>
    expect(Math.abs(db(measured(tone(RATE / 4, Math.SQRT2, Math.PI / 4))) - 3.01)).toBeLessThan(0.1));
  it('is within 0.1 dB up to 20 kHz of 44.1 kHz, whatever the phase', () => {
    for (const hertz of [997, 5000, 12000, 17000, 20000])
      for (const phase of [0, 0.4, 0.9, 1.3]) {
        const x = tone((hertz * RATE) / 44100, 0.8, phase);
        expect(Math.abs(db(measured(x)) - db(0.8))).toBeLessThan(0.1);
      }
  });
  // EBU Tech 3341, signals 20 to 23 are made at four times the rate and taken at each of its four phases; so is this: a burst,
  // band-limited by its spectrum, whose highest value is read at sixteen times the rate.
  it('of a burst is within 0.1 dB of what its spectrum says between the samples, at every phase', () => {
    const n = 4096;
    const fft = new FFT(n);
    const fine = new FFT(16 * n);
    for (let phase = 0; phase < 4; phase++) {
      const time = Float64Array.from({ length: n }, (_, i) => {
        const t = i - n / 2 + phase / 4;
        return (
          Math.exp(-((t / 40) ** 2)) * Math.sin((2 * Math.PI * t) / 6 + 0.3) +
          (Math.abs(t) < 4 ? Math.sin((Math.PI * t) / 2) / 2 : 0)
        );
      });
      const spectrum = fft.createComplexArray() as number[];
      fft.realTransform(spectrum, time);
      const wide = fine.createComplexArray() as number[];
      wide.fill(0);
      // Nothing above 0.45 of the rate.
      for (let k = 1; k < 0.45 * n; k++) {
        wide[2 * k] = 16 * spectrum[2 * k]!;
        wide[2 * k + 1] = 16 * spectrum[2 * k + 1]!;
        wide[2 * (16 * n - k)] = 16 * spectrum[2 * k]!;
        wide[2 * (16 * n - k) + 1] = -16 * spectrum[2 * k + 1]!;
      }
      const out = fine.createComplexArray() as number[];
      fine.inverseTransform(out, wide);
      let most = 0;
      for (let i = 0; i < 16 * n; i++) most = Math.max(most, Math.abs(out[2 * i]!));
      const samples = Float32Array.from({ length: n }, (_, i) => out[32 * i]!);
      expect(Math.abs(db(measured(samples) / most))).toBeLessThan(0.1);
    }
  });
  it('is the same in whatever pieces it comes, and finds the louder side', () => {
    const x = tone(11000, 0.7, 0.3);
    expect(measured(x, 17)).toBeCloseTo(measured(x, 9600), 9);
    const meter = new TruePeakMeter(2);
    meter.push(Float32Array.from({ length: 2 * x.length }, (_, i) => (i % 2 ? x[i >> 1]! : 0.1)));
    expect(meter.end()).toBeCloseTo(measured(x), 9);
  });
});
