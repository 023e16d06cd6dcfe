import { describe, expect, it } from 'vitest';
import { NOTE_VALUES } from '../core/processors/delay';
import { pitchShift } from '../core/processors/pitchShift';
import { impulse, noise, peakOf, sine } from './testing/run';
import { correlation, echoDensity, energy, spectralDeviation } from './testing/rooms';
import { gainAt, spectrum } from './testing/spectrum';
import { both, through } from './testing/through';

// What the pages of processors say of themselves, on prints at each rate that sessions have. Where a figure's own test goes through
// the rates already (equalizer, limiter, gate, de-esser, bits), it is not measured again.
const RATES = [44100, 48000, 96000, 192000];
const db = (x: number) => 20 * Math.log10(Math.abs(x));
const power = (x: Float32Array) => energy(x) / x.length;
const frames = (seconds: number, rate: number) => Math.ceil((seconds * rate) / 128) * 128;

/**
 * Distortion of a tone: the power of its harmonics and of all else over the whole, IEC 60268-3, 14.12 (total harmonic distortion, from
 * memory), by what is left when the tone is fitted and taken away.
 */
function distortion(x: Float32Array, hertz: number, rate: number): number {
  const n = Math.floor((Math.floor((x.length * hertz) / rate) * rate) / hertz);
  let [s, c] = [0, 0];
  for (let i = 0; i < n; i++) {
    s += x[i]! * Math.sin((2 * Math.PI * hertz * i) / rate);
    c += x[i]! * Math.cos((2 * Math.PI * hertz * i) / rate);
  }
  [s, c] = [(2 * s) / n, (2 * c) / n];
  let [rest, whole] = [0, 0];
  for (let i = 0; i < n; i++) {
    const at = (2 * Math.PI * hertz * i) / rate;
    rest += (x[i]! - s * Math.sin(at) - c * Math.cos(at)) ** 2;
    whole += x[i]! ** 2;
  }
  return Math.sqrt(rest / whole);
}

/** Every so many frames of a signal, once nothing above 22 kHz of 48 is left in it: a sinc under Hann's window. */
function thinned(x: Float32Array, by: number): Float32Array {
  const half = 48 * by;
  const taps = Array.from({ length: 2 * half + 1 }, (_, i) => {
    const t = ((i - half) / by) * 0.92;
    return (
      (t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t)) *
      (0.5 + 0.5 * Math.cos((Math.PI * (i - half)) / half))
    );
  });
  return Float32Array.from({ length: Math.floor(x.length / by) }, (_, n) =>
    taps.reduce((sum, tap, k) => sum + tap * (x[n * by + half - k] ?? 0), 0),
  );
}

describe.each(RATES)('at %i Hz', (rate) => {
  it('the compressor turns a low tone down without bending it, and its static curve is the page’s', () => {
    const params = { threshold: -30, ratio: 4, knee: 0, attack: 0.1, release: 20, detection: 2 };
    const x = sine(40, rate, frames(2.5, rate), 0.5);
    const out = through('compressor', params, x, { rate }).subarray(rate);
    expect(distortion(out, 40, rate)).toBeLessThan(0.005);
    // (1 - 1/R)(x - T) of a peak at -6.02 dB.
    expect(db(peakOf(out) / 0.5)).toBeCloseTo(-0.75 * 23.98, 0);
  });

  it('the saturation bends without aliases: tones to 10 kHz at full scale and full drive', () => {
    const n = 32768;
    for (const hertz of [5100, 10000]) {
      const k = Math.round((hertz * n) / rate);
      const x = sine((k * rate) / n, rate, n + 8192, 1);
      const levels = spectrum(through('saturation', { drive: 24 }, x, { rate }).subarray(8192));
      const alias = levels.filter((_, bin) => bin > 6 && Math.abs(bin - Math.round(bin / k) * k) > 6);
      expect(Math.max(...alias), `${hertz} Hz`).toBeLessThan(-80);
    }
  });
  it('the saturation keeps its level where it is asked to', () => {
    const x = noise(frames(2, rate), 5).map((v) => v * 0.3);
    const out = through('saturation', { drive: 24, keep: 1 }, x, { rate });
    expect(Math.abs(10 * Math.log10(power(out.subarray(rate)) / power(x.subarray(rate))))).toBeLessThan(0.5);
  });

  it('the pitch shift brings a tone where it belongs within 3 cents, and leaves hits in their place', () => {
    const x = sine(440, rate, frames(1, rate), 0.5);
    for (const semitones of [-5, 4]) {
      const out = through('pitch', { semitones }, x, { rate }).subarray(-frames(0.5, rate));
      let [first, last, count] = [0, 0, -1];
      for (let i = 1; i < out.length; i++)
        if (out[i - 1]! < 0 && out[i]! >= 0) {
          last = i - out[i]! / (out[i]! - out[i - 1]!);
          if (++count === 0) first = last;
        }
      const hertz = (count * rate) / (last - first);
      expect(Math.abs(1200 * Math.log2(hertz / (440 * 2 ** (semitones / 12))))).toBeLessThan(3);
    }
    const late = pitchShift.latency({ grain: 0 }, rate);
    const hit = new Float32Array(frames(0.8, rate));
    const at = Math.round(0.3 * rate);
    for (let i = 0; i < 0.2 * rate; i++)
      hit[at + i] = Math.sin((2 * Math.PI * 300 * i) / rate) * Math.exp(-i / (0.03 * rate));
    const out = through('pitch', { semitones: 5, grain: 0 }, hit, { rate }).subarray(late);
    const [was, is] = [peakOf(hit), peakOf(out)];
    const begins = (a: Float32Array, top: number) => a.findIndex((v) => Math.abs(v) > top / 3);
    expect((1000 * Math.abs(begins(out, is) - begins(hit, was))) / rate).toBeLessThan(2);
    expect(Math.abs(db(is / was))).toBeLessThan(2);
  });

  it('the chorus is wide, and loses nothing at the top', () => {
    const x = noise(frames(1.5, rate), 3);
    const [l, r] = both('chorus', { voices: 4, depth: 4 }, x, x, {}, rate).map((c) =>
      c.subarray(frames(0.2, rate)),
    );
    expect(Math.abs(correlation(l!, r!))).toBeLessThan(0.5);
    const n = 65536;
    const bin = Math.round((18000 * n) / rate);
    const tone = sine((bin * rate) / n, rate, n + 8192, 0.5);
    const params = { voices: 1, depth: 2, time: 12.345, rate: 0.3 };
    const out = through('chorus', params, tone, { rate }).subarray(8192, 8192 + n);
    expect(Math.abs(10 * Math.log10(power(out) / 0.125))).toBeLessThan(0.1);
    const rest = spectrum(out).filter((_, k) => Math.abs((k - bin) * (rate / n)) > 270);
    expect(Math.max(...rest)).toBeLessThan(-86);
  });

  it('the delay is as long as its note says, and its gliding time shifts a tone by what the glide says', () => {
    // The session's tempo is 120 beats a minute: the longest and the shortest note of the page.
    for (const note of [2, NOTE_VALUES.length]) {
      const seconds = NOTE_VALUES[note - 1]![1] / 2;
      const x = impulse(frames(seconds + 0.02, rate));
      const out = through('delay', { note }, x, { rate });
      expect(out.findIndex((v) => v > 0.5)).toBe(Math.round(seconds * rate));
    }
    const tone = sine(300, rate, frames(1.6, rate), 0.5);
    const lanes = {
      time: [
        [0, 300],
        [0.5, 300],
        [1.5, 240],
      ],
    } as unknown as Record<string, [number, number][]>;
    const out = through('delay', {}, tone, { rate, lanes });
    let last = 0;
    for (let i = 1; i < 1.4 * rate; i++) {
      if (out[i - 1]! >= 0 || out[i]! < 0) continue;
      const at = i - out[i]! / (out[i]! - out[i - 1]!);
      const t = at / rate;
      if (t > 0.85) {
        // By ratio: it falls by ln(0.8) of itself a second, and the tone is read at 1 less that.
        const wanted = 300 * (1 - (Math.log(0.8) * 300 * 0.8 ** (t - 0.5)) / 1000);
        expect(Math.abs(rate / (at - last) / wanted - 1), `${t} s`).toBeLessThan(0.01);
      }
      last = at;
    }
  });

  it('the plate sounds at once, dense within 20 ms, diffuse, with two sides of their own', () => {
    const n = frames(1.2, rate);
    const params = { decay: 1.4, damping: 0, preDelay: 0 };
    const [l, r] = both('reverb', params, impulse(n), impulse(n), {}, rate) as [Float32Array, Float32Array];
    const top = peakOf(l);
    expect((1000 * l.findIndex((v) => Math.abs(v) > top / 100)) / rate).toBeLessThan(5);
    // Echo density counts frames: what a session of a higher rate gives is brought to 48 kHz, where the paper's figures are at home.
    for (const x of [l, r]) {
      const heard = rate > 48000 ? thinned(x, rate / 48000) : x;
      for (const ms of [20, 25, 30, 40, 60, 100])
        expect(echoDensity(heard, ms / 1000, Math.min(rate, 48000)), `${ms} ms`).toBeGreaterThan(0.9);
    }
    expect(Math.abs(correlation(l, r))).toBeLessThan(0.15);
    const mono = energy(l.map((v, i) => (v + r[i]!) / 2));
    expect(10 * Math.log10(mono / ((energy(l) + energy(r)) / 2))).toBeGreaterThan(-3);
    const tail = l.subarray(Math.round(0.1 * rate));
    expect(Math.abs(spectralDeviation(tail, 200, 10000, rate) - 5.6)).toBeLessThan(0.6);
  });

  it('gain is what it says', () => {
    const x = impulse(256);
    expect(gainAt(through('gain', { gain: -7.5 }, x, { rate }), 1000, rate)).toBeCloseTo(-7.5, 3);
  });
});
