import type { Decibels, Hertz } from '../base/units';
import { ballisticsOf, type Ballistics } from './ballistics';
import { LoudnessMeter } from './loudness';
import { StereoMeter } from './stereoMeter';
import type { MeterScale } from './scales';
import { decibelsOf } from '../levels/decibels';
import { TruePeakMeter } from './truePeak';

/** What is told of a signal while it plays. */
export interface LiveReading {
  /** LUFS: of the last 400 ms, of the last 3 s, and of all since the start. */
  readonly momentary: Decibels;
  readonly shortTerm: Decibels;
  readonly integrated: Decibels;
  readonly maxMomentary: Decibels;
  readonly maxShortTerm: Decibels;
  /** LU. */
  readonly range: number | null;
  /** dBTP, the highest since the start. */
  readonly truePeakDb: Decibels;
  /** -1..1, and what is left in mono, in decibels; null for silence and for one channel. */
  readonly correlation: number | null;
  readonly mono: number | null;
  /** Where the meter stands, a channel each, as the dBFS of a sine. */
  readonly levels: readonly Decibels[];
  /** Seconds that sounded since the start. */
  readonly seconds: number;
}

/** Seconds of silence after which every window is empty: from there on nothing is worked out. */
const EMPTY = 4;
/** Seconds between two readings of what is gathered over the whole time. */
const SLOW = 0.5;

/** Measures a signal while it plays. Left and right, or one channel. */
export class LiveMeter {
  private loudness!: LoudnessMeter;
  private peak!: TruePeakMeter;
  private readonly stereo: StereoMeter | null;
  private ballistics: Ballistics;
  private silent = 0;
  private frames = 0;
  private slowAt = -Infinity;
  private slow: { readonly integrated: Decibels; readonly range: number | null } = {
    integrated: null,
    range: null,
  };

  constructor(
    private readonly sampleRate: Hertz,
    private readonly channels: 1 | 2,
    scale: MeterScale,
  ) {
    this.stereo = channels === 2 ? new StereoMeter(sampleRate) : null;
    this.ballistics = ballisticsOf(scale.detector, sampleRate, channels);
    this.restart();
  }

  /** Reads by another scale from now on. */
  setScale(scale: MeterScale): void {
    this.ballistics = ballisticsOf(scale.detector, this.sampleRate, this.channels);
  }

  /** Begins anew what is gathered: integrated loudness, range, highest readings. */
  restart(): void {
    this.loudness = new LoudnessMeter(this.sampleRate, this.channels);
    this.peak = new TruePeakMeter(this.channels);
    this.frames = 0;
    this.slowAt = -Infinity;
    this.slow = { integrated: null, range: null };
  }

  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    const frames = audio.length / this.channels;
    if (this.rests(audio, frames)) return;
    this.frames += frames;
    this.loudness.push(audio);
    this.peak.push(audio);
    this.stereo?.push(audio);
    this.ballistics.push(audio);
  }

  /** Whether it has been silent for so long that nothing can change any more. */
  private rests(audio: ArrayLike<number>, frames: number): boolean {
    let silent = true;
    for (let i = 0; silent && i < audio.length; i++) silent = audio[i] === 0;
    if (!silent) {
      this.silent = 0;
      return false;
    }
    const before = this.silent;
    this.silent += frames;
    if (before < EMPTY * this.sampleRate) return false;
    this.ballistics.clear();
    this.stereo?.clear();
    return true;
  }

  read(): LiveReading {
    const { loudness, sampleRate } = this;
    if (this.frames - this.slowAt >= SLOW * sampleRate) {
      this.slowAt = this.frames;
      this.slow = { integrated: loudness.integrated, range: loudness.range };
    }
    return {
      momentary: loudness.momentary,
      shortTerm: loudness.shortTerm,
      maxMomentary: loudness.maxMomentary,
      maxShortTerm: loudness.maxShortTerm,
      ...this.slow,
      truePeakDb: decibelsOf(this.peak.peak),
      correlation: this.stereo?.correlation ?? null,
      mono: this.stereo?.mono ?? null,
      levels: Array.from({ length: this.channels }, (_, c) => decibelsOf(this.ballistics.reading(c))),
      seconds: this.frames / sampleRate,
    };
  }
}
