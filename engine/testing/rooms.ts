// Figures of impulse responses, by published methods.
import FFT from 'fft.js';

/** A response without what lies outside a band, without delay: its spectrum there alone, with soft flanks of a sixth of an octave. */
export function band(response: Float32Array, from: number, to: number, rate: number): Float32Array {
  const n = 2 ** Math.ceil(Math.log2(response.length));
  const fft = new FFT(n);
  const padded = new Float64Array(n);
  padded.set(response);
  const spectrum = fft.createComplexArray() as number[];
  fft.realTransform(spectrum, padded);
  const soft = (octaves: number) => {
    const x = Math.min(1, Math.max(0, 0.5 + octaves * 3));
    return x * x * (3 - 2 * x);
  };
  for (let k = 0; k <= n / 2; k++) {
    const hertz = Math.max(1, (k * rate) / n);
    const gain = soft(Math.log2(hertz / from)) * soft(Math.log2(to / hertz));
    spectrum[2 * k]! *= gain;
    spectrum[2 * k + 1]! *= gain;
  }
  fft.completeSpectrum(spectrum);
  const out = fft.createComplexArray() as number[];
  fft.inverseTransform(out, spectrum);
  return Float32Array.from(response, (_, i) => out[2 * i]!);
}
export const octave = (response: Float32Array, middle: number, rate: number) =>
  band(response, middle / Math.SQRT2, middle * Math.SQRT2, rate);

/**
 * Reverberation time by backward integration of the squared impulse response and a straight line from -5 to -35 dB,
 * times two: T30 of ISO 3382-1:2009, 5.3.3 and annex A.
 */
export function t30(response: Float32Array, rate: number): number {
  const decay = new Float64Array(response.length);
  let sum = 0;
  for (let i = response.length - 1; i >= 0; i--) decay[i] = sum += response[i]! ** 2;
  const level = (i: number) => 10 * Math.log10(decay[i]! / decay[0]!);
  const xs: number[] = [];
  const ys: number[] = [];
  for (let i = 0; i < response.length; i += 32) {
    const l = level(i);
    if (l <= -5 && l >= -35) {
      xs.push(i / rate);
      ys.push(l);
    }
  }
  const mx = xs.reduce((a, b) => a + b) / xs.length;
  const my = ys.reduce((a, b) => a + b) / ys.length;
  const slope =
    xs.reduce((s, x, i) => s + (x - mx) * (ys[i]! - my), 0) / xs.reduce((s, x) => s + (x - mx) ** 2, 0);
  return -60 / slope;
}

/**
 * Echo density at a time: the share of a window of 20 ms that lies beyond one standard deviation, over what it is of Gaussian
 * noise, 1/3 nearly. J. S. Abel and P. Huang, "A simple, robust measure of reverberation echo density", AES 121st
 * convention, 2006.
 */
export function echoDensity(response: Float32Array, seconds: number, rate: number): number {
  const n = Math.round(0.02 * rate);
  const from = Math.round(seconds * rate - n / 2);
  let [weight, power, beyond] = [0, 0, 0];
  const w = (i: number) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / (n - 1));
  for (let i = 0; i < n; i++) {
    weight += w(i);
    power += w(i) * (response[from + i] ?? 0) ** 2;
  }
  const deviation = Math.sqrt(power / weight);
  for (let i = 0; i < n; i++) if (Math.abs(response[from + i] ?? 0) > deviation) beyond += w(i);
  return beyond / weight / 0.3173;
}

/**
 * By how much the levels of a spectrum's lines deviate from their mean, in bands of 200 Hz, in dB. In a diffuse field it is
 * 5.6 dB: M. R. Schroeder, "Die statistischen Parameter der Frequenzkurven von großen Räumen", Acustica 4, 1954.
 */
export function spectralDeviation(response: Float32Array, from: number, to: number, rate: number): number {
  const n = 2 ** Math.floor(Math.log2(response.length));
  const fft = new FFT(n);
  const out = fft.createComplexArray() as number[];
  fft.realTransform(out, response.subarray(0, n) as unknown as number[]);
  const bins = Math.round((200 * n) / rate);
  let [sum, count] = [0, 0];
  for (let a = Math.round((from * n) / rate); a + bins <= (to * n) / rate; a += bins) {
    const levels = Array.from(
      { length: bins },
      (_, k) => 10 * Math.log10(out[2 * (a + k)]! ** 2 + out[2 * (a + k) + 1]! ** 2 + 1e-30),
    );
    const mean = levels.reduce((x, y) => x + y) / bins;
    for (const l of levels) sum += (l - mean) ** 2;
    count += bins;
  }
  return Math.sqrt(sum / count);
}

export const energy = (x: Float32Array): number => x.reduce((s, v) => s + v * v, 0);
/** Correlation of two sides, -1 to 1. */
export function correlation(a: Float32Array, b: Float32Array): number {
  return a.reduce((s, v, i) => s + v * b[i]!, 0) / Math.sqrt(energy(a) * energy(b));
}
/** Centre time in seconds: ISO 3382-1:2009, A.2.4. */
export const centreTime = (x: Float32Array, rate: number): number =>
  x.reduce((s, v, i) => s + (i / rate) * v * v, 0) / energy(x);
