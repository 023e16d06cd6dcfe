import { describe, expect, it } from 'vitest';
import { packageTruePeak } from '../../engine/testing/truePeakPackage';
import { TRUE_PEAK_TAPS, truePeak } from './truePeak';

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
