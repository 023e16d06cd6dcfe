import { decibelsOf } from '../levels/decibels';
import type { Decibels, Hertz } from '../base/units';
import { LoudnessMeter } from './loudness';
import { TruePeakMeter } from './truePeak';

/** What is told of a print beside its peak. */
export interface PrintReading {
  /** LUFS. */
  readonly integrated: Decibels;
  readonly maxMomentary: Decibels;
  readonly maxShortTerm: Decibels;
  /** LU; null for less than 3 s. */
  readonly range: number | null;
  /** dBTP. */
  readonly truePeakDb: Decibels;
}

/** Measures a print as it is made. */
export class PrintMeter {
  private readonly loudness: LoudnessMeter;
  private readonly peak: TruePeakMeter;

  constructor(sampleRate: Hertz, channels: number) {
    this.loudness = new LoudnessMeter(sampleRate, channels);
    this.peak = new TruePeakMeter(channels);
  }
  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    this.loudness.push(audio);
    this.peak.push(audio);
  }
  /** Once all of it was pushed. */
  end(): PrintReading {
    const { integrated, maxMomentary, maxShortTerm, range } = this.loudness;
    return { integrated, maxMomentary, maxShortTerm, range, truePeakDb: decibelsOf(this.peak.end()) };
  }
}
