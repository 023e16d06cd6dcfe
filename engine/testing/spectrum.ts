import FFT from 'fft.js';

/** Level of each bin of a signal under a Blackman-Harris window, in dB; a sine of amplitude 1 stands at 0. */
export function spectrum(audio: Float32Array): Float64Array {
  const n = audio.length;
  const fft = new FFT(n);
  const input = new Float64Array(n);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    const p = (2 * Math.PI * i) / n;
    const w = 0.35875 - 0.48829 * Math.cos(p) + 0.14128 * Math.cos(2 * p) - 0.01168 * Math.cos(3 * p);
    input[i] = audio[i]! * w;
    sum += w;
  }
  const out = fft.createComplexArray() as number[];
  fft.realTransform(out, input);
  return Float64Array.from(
    { length: n / 2 },
    (_, k) => 20 * Math.log10((2 * Math.hypot(out[2 * k]!, out[2 * k + 1]!)) / sum + 1e-12),
  );
}

/** Gain at a frequency of an impulse response, in dB. */
export function gainAt(response: Float32Array, hertz: number, rate: number): number {
  let re = 0;
  let im = 0;
  const w = (2 * Math.PI * hertz) / rate;
  for (let i = 0; i < response.length; i++) {
    re += response[i]! * Math.cos(w * i);
    im -= response[i]! * Math.sin(w * i);
  }
  return 20 * Math.log10(Math.hypot(re, im));
}
