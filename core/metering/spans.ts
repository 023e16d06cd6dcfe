import type { Hertz, Seconds } from '../base/units';

/** Spans of time, in their order, that do not touch. */
export type Spans = readonly (readonly [start: Seconds, end: Seconds])[];

/** What is louder than this sounds: -60 dBFS as an amplitude. */
export const SOUNDS = 10 ** (-60 / 20);
/** A second in hundredths: how finely spans are told. */
const PARTS = 100;
/** Gaps shorter than this, in hundredths, are no gaps: between two beats of a low tone there may be one. */
const GAP = 10;

/** Finds where audio sounds, as it arrives. A span begins and ends with a hundredth of a second in which a sample reaches -60 dBFS. */
export class SpanMeter {
  private readonly found: [number, number][] = [];
  private readonly size: number;
  private filled = 0;
  private at = 0;
  private loud = false;

  /** @param channels of the interleaved audio */
  constructor(
    channels: number,
    private readonly rate: Hertz,
  ) {
    this.size = Math.max(1, Math.round(rate / PARTS)) * channels;
  }

  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    for (let i = 0; i < audio.length; i++) {
      const v = audio[i]!;
      if (v >= SOUNDS || v <= -SOUNDS) this.loud = true;
      if (++this.filled === this.size) this.endPart();
    }
  }
  /** Takes a hundredth of a second of which it is known whether a sample in it reaches -60 dBFS. */
  part(loud: boolean): void {
    this.loud = loud;
    this.endPart();
  }
  private endPart() {
    if (this.loud) {
      const last = this.found.at(-1);
      if (last && this.at - last[1] < GAP) last[1] = this.at + 1;
      else this.found.push([this.at, this.at + 1]);
    }
    this.at++;
    this.filled = 0;
    this.loud = false;
  }

  /** @returns the spans, in seconds */
  end(): Spans {
    if (this.filled > 0) this.endPart();
    const seconds = Math.max(1, Math.round(this.rate / PARTS)) / this.rate;
    const time = (n: number) => Math.round(n * seconds * 1e4) / 1e4;
    return this.found.map(([a, b]) => [time(a), time(b)]);
  }
}
