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

/** Taps of a high-pass of linear phase: Kaiser's window for 100 dB (ISCAS 1974), its middle at `hertz`, half of that wide. */
function highPass(hertz: number, rate: number): Float64Array {
  const half = Math.ceil((100 - 8) / (2.285 * 2 * Math.PI * ((hertz * 0.5) / rate)) / 2);
  const bessel = (x: number) => {
    let [sum, term] = [1, 1];
    for (let k = 1; k < 50; k++) sum += term *= (x / (2 * k)) ** 2;
    return sum;
  };
  const beta = 0.1102 * (100 - 8.7);
  return Float64Array.from({ length: 2 * half + 1 }, (_, i) => {
    const t = i - half;
    const low = t === 0 ? (2 * hertz) / rate : Math.sin((2 * Math.PI * hertz * t) / rate) / (Math.PI * t);
    const tap = (low * bessel(beta * Math.sqrt(1 - (t / half) ** 2))) / bessel(beta);
    return (t === 0 ? 1 : 0) - tap;
  });
}

/** What of a signal lies above a frequency, in time: as long as the signal, the filter's delay taken off. */
export function above(audio: Float32Array, hertz: number, rate: number): Float64Array {
  const taps = highPass(hertz, rate);
  const half = (taps.length - 1) / 2;
  return Float64Array.from({ length: audio.length }, (_, n) => {
    let sum = 0;
    for (let k = 0; k < taps.length; k++) {
      const i = n + half - k;
      if (i >= 0 && i < audio.length) sum += taps[k]! * audio[i]!;
    }
    return sum;
  });
}
