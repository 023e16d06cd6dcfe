import { describe, expect, it } from 'vitest';
import { packageIntegrated } from '../../engine/testing/meterPackage';
import { LoudnessMeter } from './loudness';

// EBU Tech 3341, signals 7 and 8, and 3342, signals 5 and 6, are recorded programmes, a narrow and a wide one, which are not to be had
// here. These are of the same kinds: held against another implementation, and against Tech 3342's own steps taken one by one.
const RATE = 48000;
const SECONDS = 45;

/** Noise that falls by about 3 dB an octave, in syllables and phrases. @param swing decibels from the softest to the loudest phrase */
function programme(swing: number, seed: number): readonly [Float32Array, Float32Array] {
  let state = seed;
  const random = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 31 - 1;
  };
  const phrases = Array.from({ length: Math.ceil(SECONDS / 2.5) }, () => (random() * 0.5 - 0.5) * swing);
  const sides = [new Float32Array(SECONDS * RATE), new Float32Array(SECONDS * RATE)] as const;
  const memory = [new Float64Array(3), new Float64Array(3)] as const;
  for (let i = 0; i < SECONDS * RATE; i++) {
    const t = i / RATE;
    const phrase = t / 2.5;
    const a = phrases[Math.floor(phrase)]!;
    const b = phrases[Math.min(phrases.length - 1, Math.floor(phrase) + 1)]!;
    const level = a + (b - a) * Math.max(0, (phrase % 1) * 5 - 4);
    const syllable = Math.max(0, Math.sin(2 * Math.PI * 4.3 * t + Math.sin(t))) ** 0.7;
    // Two phrases of nothing fall to the gates.
    const gain = Math.floor(phrase) % 7 === 5 ? 0 : 0.25 * syllable * 10 ** (level / 20);
    const middle = random();
    sides.forEach((side, c) => {
      // P. Kellet's economy filter for pink noise (from memory).
      const m = memory[c]!;
      const white = 0.7 * middle + 0.5 * random();
      m[0] = 0.99765 * m[0]! + white * 0.099046;
      m[1] = 0.963 * m[1]! + white * 0.2965164;
      m[2] = 0.57 * m[2]! + white * 1.0526913;
      side[i] = gain * 0.3 * (m[0] + m[1] + m[2] + white * 0.1848);
    });
  }
  return sides;
}

/** ITU-R BS.1770-4, annex 1, tables 1 and 2, as they stand there, in the direct form. */
function weighted(audio: Float32Array): Float64Array {
  const stage = (x: ArrayLike<number>, b: readonly number[], a: readonly number[]) => {
    const y = new Float64Array(x.length);
    for (let n = 0; n < x.length; n++)
      y[n] =
        b[0]! * x[n]! +
        b[1]! * (x[n - 1] ?? 0) +
        b[2]! * (x[n - 2] ?? 0) -
        a[0]! * (y[n - 1] ?? 0) -
        a[1]! * (y[n - 2] ?? 0);
    return y;
  };
  const shelf = stage(
    audio,
    [1.53512485958697, -2.69169618940638, 1.19839281085285],
    [-1.69065929318241, 0.73248077421585],
  );
  return stage(shelf, [1, -2, 1], [-1.99004745483398, 0.99007225036621]);
}

/** EBU Tech 3342, the steps of its section 4 (from memory): two gates, then from the 10th to the 95th percentile. */
function range(sides: readonly Float32Array[]): number {
  const power = new Float64Array(SECONDS * RATE + 1);
  const heard = sides.map(weighted);
  for (let i = 0; i < SECONDS * RATE; i++)
    power[i + 1] = power[i]! + heard.reduce((sum, y) => sum + y[i]! * y[i]!, 0);
  const short: number[] = [];
  for (let end = 3 * RATE; end <= SECONDS * RATE; end += RATE / 10)
    short.push(-0.691 + 10 * Math.log10((power[end]! - power[end - 3 * RATE]!) / (3 * RATE)));
  const loud = short.filter((l) => l >= -70);
  const mean = 10 * Math.log10(loud.reduce((sum, l) => sum + 10 ** (l / 10), 0) / loud.length);
  const kept = loud.filter((l) => l >= mean - 20).sort((x, y) => x - y);
  const percentile = (p: number) => kept[Math.round(((kept.length - 1) * p) / 100)]!;
  return percentile(95) - percentile(10);
}

describe('a programme', () => {
  it.each([
    ['narrow', 6, 3, 8],
    ['wide', 30, 12, 25],
  ] as const)(
    'of a %s range is as loud as by another implementation, and as wide as by the steps of Tech 3342',
    (_name, swing, least, most) => {
      const sides = programme(swing, 11);
      const meter = new LoudnessMeter(RATE, 2);
      const both = new Float32Array(2 * SECONDS * RATE);
      for (let i = 0; i < SECONDS * RATE; i++) {
        both[2 * i] = sides[0][i]!;
        both[2 * i + 1] = sides[1][i]!;
      }
      meter.push(both);
      expect(Math.abs(meter.integrated! - packageIntegrated(RATE, ...sides))).toBeLessThan(0.1);
      expect(Math.abs(meter.range! - range(sides))).toBeLessThan(0.1);
      expect(meter.range!).toBeGreaterThan(least);
      expect(meter.range!).toBeLessThan(most);
    },
  );
});
