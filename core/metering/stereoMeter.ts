import type { Hertz } from '../base/units';

/** Seconds in which what was heard before has come down to 37 %. */
const SECONDS = 0.3;
/** A power below which nothing is said. */
const SILENT = 1e-12;

/** How left and right go together: both figures over the last third of a second, weighted less the older it is. */
export class StereoMeter {
  private left = 0;
  private right = 0;
  private both = 0;
  private readonly share: number;

  constructor(sampleRate: Hertz) {
    this.share = 1 - Math.exp(-1 / (SECONDS * sampleRate));
  }

  /** @param audio interleaved frames of two channels */
  push(audio: ArrayLike<number>): void {
    const { share } = this;
    let { left, right, both } = this;
    for (let i = 0; i < audio.length; i += 2) {
      const l = audio[i]!;
      const r = audio[i + 1]!;
      left += share * (l * l - left);
      right += share * (r * r - right);
      both += share * (l * r - both);
    }
    this.left = left;
    this.right = right;
    this.both = both;
  }

  /** -1 (opposite) .. 1 (the same); null for silence, and where one side is silent. */
  get correlation(): number | null {
    const { left, right, both } = this;
    if (left < SILENT || right < SILENT) return null;
    return Math.max(-1, Math.min(1, both / Math.sqrt(left * right)));
  }

  /**
   * What is left in mono: the power of half the sum over the mean of both sides' powers, in decibels: 0 where they are the same, -3 where
   * they are not related or where one is silent, -Infinity where they cancel. Null for silence.
   */
  get mono(): number | null {
    const { left, right, both } = this;
    if (left + right < SILENT) return null;
    const share = (left + right + 2 * both) / (2 * (left + right));
    return share < 1e-9 ? -Infinity : 10 * Math.log10(share);
  }

  clear(): void {
    this.left = this.right = this.both = 0;
  }
}
