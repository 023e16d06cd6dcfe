import FFT from 'fft.js';
import type { Hertz, Samples, Seconds } from '../base/units';

/** What a stem turned out to hold, heard from its first frame to its last. */
export interface StemMeasure {
  readonly frames: Samples;
  readonly channels: 1 | 2;
  /** Highest sample, linear; 1 is full scale. */
  readonly peak: number;
  /** Runs of three samples or more at full scale: a wave that was cut off. */
  readonly clips: number;
  /** Of two channels: power of their sum (L + R) / 2 over the mean of their powers, 0 to 1; null of one. */
  readonly mono: number | null;
  /** When its file says that it begins, since midnight; null where it does not. */
  readonly begins?: Seconds | null;
}

/** How two stems that belong together lie against each other. */
export interface PairMeasure {
  readonly left: string;
  readonly right: string;
  /** Frames by which what is in the right comes later than in the left. */
  readonly shift: Samples;
  /** Correlation at that shift, and where they stand: -1 to 1. */
  readonly correlation: number;
  readonly asItStands: number;
}

/** At which a sample counts as full scale: the highest of 16 bits, less rounding. */
const FULL = 32766 / 32768;
const RUN = 3;

/** Listens to a stem piece by piece. */
export class StemMeter {
  private peak = 0;
  private clips = 0;
  private runs = [0, 0];
  private sides = 0;
  private sum = 0;

  constructor(private readonly channels: 1 | 2) {}

  /** @param audio interleaved frames */
  add(audio: Float32Array): void {
    const { channels } = this;
    for (let i = 0; i < audio.length; i += channels) {
      for (let c = 0; c < channels; c++) {
        const v = Math.abs(audio[i + c]!);
        if (v > this.peak) this.peak = v;
        if (v < FULL) this.runs[c] = 0;
        else if (++this.runs[c]! === RUN) this.clips++;
      }
      if (channels === 2) {
        const [l, r] = [audio[i]!, audio[i + 1]!];
        this.sides += l * l + r * r;
        this.sum += (l + r) * (l + r);
      }
    }
  }
  measure(frames: Samples): StemMeasure {
    const { channels, peak, clips } = this;
    const mono = channels === 1 || this.sides === 0 ? null : this.sum / 2 / this.sides;
    return { frames, channels, peak, clips, mono };
  }
}

/** How far apart two stems are looked for, in seconds. */
const FARTHEST_SECONDS = 0.5;

/**
 * By how many frames what is in `b` comes later than in `a`: where their cross-correlation, by way of their spectra, is highest
 * (J. S. Bendat and A. G. Piersol, "Random data", 11.6: a cross-correlation by fast Fourier transforms).
 * @param a, b of one length
 */
export function shiftBetween(
  a: Float32Array,
  b: Float32Array,
  sampleRate: Hertz,
): Omit<PairMeasure, 'left' | 'right'> {
  const farthest = Math.round(FARTHEST_SECONDS * sampleRate);
  const n = 2 ** Math.ceil(Math.log2(a.length + farthest + 1));
  const fft = new FFT(n);
  const transform = (x: Float32Array) => {
    const padded = new Float64Array(n);
    padded.set(x);
    const out = fft.createComplexArray() as number[];
    fft.realTransform(out, padded);
    fft.completeSpectrum(out);
    return out;
  };
  const [A, B] = [transform(a), transform(b)];
  const product = fft.createComplexArray() as number[];
  for (let k = 0; k < n; k++) {
    const [ar, ai, br, bi] = [A[2 * k]!, A[2 * k + 1]!, B[2 * k]!, B[2 * k + 1]!];
    product[2 * k] = ar * br + ai * bi;
    product[2 * k + 1] = ar * bi - ai * br;
  }
  const found = fft.createComplexArray() as number[];
  fft.inverseTransform(found, product);
  const power = (x: Float32Array) => x.reduce((s, v) => s + v * v, 0);
  const norm = Math.sqrt(power(a) * power(b)) || 1;
  const at = (shift: number) => found[2 * (shift < 0 ? n + shift : shift)]! / norm;
  let shift = 0;
  for (let s = -farthest; s <= farthest; s++) if (Math.abs(at(s)) > Math.abs(at(shift))) shift = s;
  return { shift, correlation: at(shift), asItStands: at(0) };
}
