import type { Decibels } from '../base/units';

/** Coefficients of a second-order section, normalized to a0 = 1. */
export interface Section {
  readonly b: readonly [number, number, number];
  readonly a: readonly [number, number];
}

/**
 * The two sections of K-weighting at a sample rate: ITU-R BS.1770-4, annex 1, tables 1 and 2, give them for 48 kHz. The
 * analogue prototypes that lead to those tables (from memory: 1681.97 Hz, +4.0 dB, Q 0.7072; 38.14 Hz, Q 0.5003) give
 * them for other rates; a test holds the result at 48 kHz against the tables.
 */
export function kWeighting(sampleRate: number): readonly [shelf: Section, highPass: Section] {
  const shelf = (() => {
    const f0 = 1681.974450955533;
    const gain = 3.999843853973347;
    const q = 0.7071752369554196;
    const k = Math.tan((Math.PI * f0) / sampleRate);
    const vh = 10 ** (gain / 20);
    const vb = vh ** 0.4996667741545416;
    const a0 = 1 + k / q + k * k;
    return {
      b: [(vh + (vb * k) / q + k * k) / a0, (2 * (k * k - vh)) / a0, (vh - (vb * k) / q + k * k) / a0],
      a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0],
    } as const;
  })();
  const f0 = 38.13547087602444;
  const q = 0.5003270373238773;
  const k = Math.tan((Math.PI * f0) / sampleRate);
  const a0 = 1 + k / q + k * k;
  return [shelf, { b: [1, -2, 1], a: [(2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0] }];
}

/** Loudness of a mean square: BS.1770-4, equation 2. */
const loudnessOf = (meanSquare: number): Decibels =>
  meanSquare > 1e-14 ? -0.691 + 10 * Math.log10(meanSquare) : null;

const ABSOLUTE_GATE = -70;
const RELATIVE_GATE = -10;
/** Gating blocks of 400 ms that overlap by 75 %. */
const STEP_SECONDS = 0.1;
const STEPS = 4;

/** Measures integrated loudness, piece by piece: ITU-R BS.1770-4, annex 1. Left and right weigh 1. */
export class LoudnessMeter {
  private readonly sections: readonly Section[];
  /** Two memories a section and channel. */
  private readonly memory: Float64Array;
  private readonly stepFrames: number;
  private readonly steps: number[] = [];
  private sum = 0;
  private inStep = 0;

  constructor(
    sampleRate: number,
    private readonly channels: number,
  ) {
    this.sections = kWeighting(sampleRate);
    this.memory = new Float64Array(channels * 4);
    this.stepFrames = Math.round(STEP_SECONDS * sampleRate);
  }

  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    const [one, two] = this.sections as [Section, Section];
    const m = this.memory;
    for (let i = 0; i < audio.length; i += this.channels) {
      for (let c = 0; c < this.channels; c++) {
        const k = c * 4;
        const x = audio[i + c]!;
        const y = one.b[0] * x + m[k]!;
        m[k] = one.b[1] * x - one.a[0] * y + m[k + 1]!;
        m[k + 1] = one.b[2] * x - one.a[1] * y;
        const z = two.b[0] * y + m[k + 2]!;
        m[k + 2] = two.b[1] * y - two.a[0] * z + m[k + 3]!;
        m[k + 3] = two.b[2] * y - two.a[1] * z;
        this.sum += z * z;
      }
      if (++this.inStep === this.stepFrames) {
        this.steps.push(this.sum / this.stepFrames);
        this.sum = this.inStep = 0;
      }
    }
  }

  /** Integrated loudness in LUFS; null for silence, and for less than one gating block. */
  get integrated(): Decibels {
    const blocks: number[] = [];
    for (let i = 0; i + STEPS <= this.steps.length; i++) {
      let mean = 0;
      for (let k = 0; k < STEPS; k++) mean += this.steps[i + k]! / STEPS;
      blocks.push(mean);
    }
    const above = (gate: number) => blocks.filter((b) => (loudnessOf(b) ?? -Infinity) > gate);
    const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
    const loud = above(ABSOLUTE_GATE);
    if (loud.length === 0) return null;
    const gated = above(loudnessOf(mean(loud))! + RELATIVE_GATE);
    return gated.length ? loudnessOf(mean(gated)) : null;
  }
}
