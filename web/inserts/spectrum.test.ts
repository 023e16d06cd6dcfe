import { describe, expect, it } from 'vitest';
import { Spectrum, SPECTRUM_FRAMES } from './spectrum';

const RATE = 48000;
const BIN = RATE / SPECTRUM_FRAMES;
/** A spectrum that has seen one buffer. */
function seen(make: (i: number) => number, fall = 200): Spectrum {
  const s = new Spectrum();
  s.frames.set(Float32Array.from({ length: SPECTRUM_FRAMES }, (_, i) => make(i)));
  s.update(fall);
  return s;
}
const sine =
  (hertz: number, amplitude = 1) =>
  (i: number) =>
    amplitude * Math.sin((2 * Math.PI * hertz * i) / RATE);

describe('the live spectrum', () => {
  it('shows a sine of full scale at 0 dB, whatever its frequency on a bin', () => {
    for (const k of [20, 85, 400, 1500]) {
      const s = seen(sine(k * BIN));
      expect(s.levels[k]).toBeCloseTo(0, 2);
      expect(s.between((k - 1) * BIN, (k + 1) * BIN, RATE)).toBeCloseTo(0, 2);
    }
  });
  it('goes down with the level, decibel by decibel', () => {
    for (const level of [-6, -20, -60])
      expect(seen(sine(100 * BIN, 10 ** (level / 20))).levels[100]).toBeCloseTo(level, 1);
  });
  // Harris, "On the use of windows", Proc. IEEE 1978, table 1: Hann has a scallop loss of 1.42 dB, and its first bin beside
  // a sine on a bin stands 6 dB lower.
  it('has the scallop loss and the neighbours of a Hann window', () => {
    expect(seen(sine(100.5 * BIN)).levels[100]).toBeCloseTo(-1.42, 1);
    const s = seen(sine(100 * BIN));
    expect(s.levels[99]).toBeCloseTo(-6.02, 1);
    expect(s.levels[101]).toBeCloseTo(-6.02, 1);
    expect(s.levels[110]).toBeLessThan(-100);
  });
  it('rises at once and falls as slowly as it is told', () => {
    const s = seen(sine(100 * BIN));
    s.frames.fill(0);
    s.update(3);
    expect(s.levels[100]).toBeCloseTo(-3, 1);
    for (let i = 0; i < 100; i++) s.update(3);
    expect(s.levels[100]).toBeLessThan(-119);
  });
  it('finds the nearest bin where none lies between', () => {
    expect(seen(sine(100 * BIN)).between(99.8 * BIN, 99.9 * BIN, RATE)).toBeCloseTo(0, 2);
  });
  it('is empty for silence, and for numbers that are none', () => {
    expect(seen(() => 0).between(20, 20000, RATE)).toBeLessThan(-119);
  });
});
