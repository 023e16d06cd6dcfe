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
/** Of the range: EBU Tech 3342, 2. */
const RANGE_GATE = -20;
const RANGE_LOW = 0.1;
const RANGE_HIGH = 0.95;
/** Steps in which powers are gathered; gating blocks of 400 ms begin at every tenth of them, which is an overlap of 75 %. */
const STEP_SECONDS = 0.01;
const TENTH = 10;
/** Steps of a momentary and of a short-term reading: 400 ms and 3 s, EBU Tech 3341, 2.2. */
const MOMENTARY = 40;
const SHORT_TERM = 300;

const meanOf = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;

/**
 * Measures loudness, piece by piece: ITU-R BS.1770-5, annex 1, momentary, short-term and integrated of EBU Tech 3341, range of EBU
 * Tech 3342. Levels in LUFS, ranges in LU; null for silence and where not enough has been heard.
 */
export class LoudnessMeter {
  private readonly sections: readonly Section[];
  /** Two memories a section and channel. */
  private readonly memory: Float64Array;
  private readonly rate: number;
  /** Powers of the last 3 s, a step each, as a ring; and their sums over the last windows. */
  private readonly ring = new Float64Array(SHORT_TERM);
  private steps = 0;
  private sum = 0;
  private inStep = 0;
  private due: number;
  private readonly blocks: number[] = [];
  private readonly shorts: number[] = [];
  private now = { momentary: 0, short: 0 };
  private most = { momentary: 0, short: 0 };

  /** What each channel's power weighs. */
  private readonly weights: Float64Array;

  /**
   * @param channels of the interleaved frames
   * @param weights of each channel, 1 where none is given: BS.1770-5, annex 1, table 3, has 1.41 for left and right surround
   */
  constructor(
    sampleRate: number,
    private readonly channels: number,
    weights: readonly number[] = [],
  ) {
    this.weights = Float64Array.from({ length: channels }, (_, c) => weights[c] ?? 1);
    this.rate = sampleRate;
    this.sections = kWeighting(sampleRate);
    this.memory = new Float64Array(channels * 4);
    this.due = Math.round(STEP_SECONDS * sampleRate);
  }

  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    const { channels } = this;
    const frames = Math.floor(audio.length / channels);
    for (let from = 0; from < frames;) {
      const to = Math.min(frames, from + this.due - this.inStep);
      for (let c = 0; c < channels; c++) this.sum += this.weights[c]! * this.power(audio, c, from, to);
      this.inStep += to - from;
      from = to;
      if (this.inStep === this.due) this.step();
    }
  }

  /** The sum of one channel's weighted squares from a frame to before another. */
  private power(audio: ArrayLike<number>, c: number, from: number, to: number): number {
    const { channels, memory } = this;
    const [one, two] = this.sections as [Section, Section];
    const [b0, b1, b2] = one.b;
    const [a1, a2] = one.a;
    const [d0, d1, d2] = two.b;
    const [c1, c2] = two.a;
    const k = c * 4;
    // In variables of its own: a loop that keeps its memory in the array is half as fast.
    let [m0, m1, m2, m3] = [memory[k]!, memory[k + 1]!, memory[k + 2]!, memory[k + 3]!];
    let sum = 0;
    for (let i = from * channels + c; i < to * channels; i += channels) {
      const x = audio[i]!;
      const y = b0 * x + m0;
      m0 = b1 * x - a1 * y + m1;
      m1 = b2 * x - a2 * y;
      const z = d0 * y + m2;
      m2 = d1 * y - c1 * z + m3;
      m3 = d2 * y - c2 * z;
      sum += z * z;
    }
    memory[k] = m0;
    memory[k + 1] = m1;
    memory[k + 2] = m2;
    memory[k + 3] = m3;
    return sum;
  }

  private step() {
    const { ring, steps } = this;
    ring[steps % SHORT_TERM] = this.sum / this.inStep;
    this.sum = this.inStep = 0;
    this.steps++;
    // Steps of whole frames that keep to the time whatever the rate.
    this.due =
      Math.round((this.steps + 1) * STEP_SECONDS * this.rate) -
      Math.round(this.steps * STEP_SECONDS * this.rate);
    const over = (count: number) => {
      let sum = 0;
      for (let k = 0; k < count; k++) sum += ring[(this.steps - 1 - k + SHORT_TERM) % SHORT_TERM]!;
      return sum / count;
    };
    const tenth = this.steps % TENTH === 0;
    if (this.steps >= MOMENTARY) {
      this.now.momentary = over(MOMENTARY);
      this.most.momentary = Math.max(this.most.momentary, this.now.momentary);
      if (tenth) this.blocks.push(this.now.momentary);
    }
    if (this.steps >= SHORT_TERM) {
      this.now.short = over(SHORT_TERM);
      this.most.short = Math.max(this.most.short, this.now.short);
      if (tenth) this.shorts.push(this.now.short);
    }
  }

  get momentary(): Decibels {
    return loudnessOf(this.now.momentary);
  }
  get shortTerm(): Decibels {
    return loudnessOf(this.now.short);
  }
  /** The highest momentary and short-term readings so far. */
  get maxMomentary(): Decibels {
    return loudnessOf(this.most.momentary);
  }
  get maxShortTerm(): Decibels {
    return loudnessOf(this.most.short);
  }

  /** Powers of those that lie above the absolute gate, and above another under their mean. */
  private gated(powers: readonly number[], gate: number): readonly number[] {
    const above = (level: number) => powers.filter((p) => (loudnessOf(p) ?? -Infinity) > level);
    const loud = above(ABSOLUTE_GATE);
    return loud.length === 0 ? [] : above(Math.max(ABSOLUTE_GATE, loudnessOf(meanOf(loud))! + gate));
  }

  /** Integrated loudness; null for less than one gating block. */
  get integrated(): Decibels {
    const gated = this.gated(this.blocks, RELATIVE_GATE);
    return gated.length ? loudnessOf(meanOf(gated)) : null;
  }

  /** Loudness range: from the 10th to the 95th of a hundred short-term readings, EBU Tech 3342, 3. */
  get range(): number | null {
    const gated = [...this.gated(this.shorts, RANGE_GATE)].sort((a, b) => a - b);
    if (gated.length === 0) return null;
    const at = (share: number) => loudnessOf(gated[Math.round((gated.length - 1) * share)]!)!;
    return at(RANGE_HIGH) - at(RANGE_LOW);
  }
}
