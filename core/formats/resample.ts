import type { Hertz } from '../base/units';

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** Modified Bessel function of the first kind, order 0, by its power series (Abramowitz and Stegun 9.6.12). */
function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 60 && term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** Zero crossings of the sinc on each side. */
const CROSSINGS = 32;
/** Kaiser window for about 100 dB of stop band: Kaiser 1974, beta = 0.1102 (A - 8.7). */
const BETA = 0.1102 * (100 - 8.7);

const PEAK = besselI0(BETA);
/** Phases of which each one's taps are kept: enough for every rate in use. */
const MOST_PHASES = 2000;
/** Points of the curve between two input frames. */
const STEPS = 4096;

/**
 * Converts a sample rate by a polyphase windowed sinc, in pieces of any size. Output frame n stands at the time of
 * input position n * in/out: nothing is delayed.
 */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly half: number;
  private readonly taps: number;
  private readonly cutoff: number;
  /** The taps of the phases that were met so far. */
  private readonly phases = new Map<number, Float64Array>();
  /** The filter's curve from its middle on, where there are too many phases to keep each one's taps. */
  private readonly curve: Float64Array | null;
  private held: Float32Array;
  /** Input frame number of the first held frame. */
  private heldStart: number;
  private received = 0;
  private made = 0;

  constructor(
    readonly inRate: Hertz,
    readonly outRate: Hertz,
    readonly channels: number,
  ) {
    const g = gcd(inRate, outRate);
    this.up = outRate / g;
    this.down = inRate / g;
    this.cutoff = Math.min(1, outRate / inRate) * 0.97;
    this.half = Math.ceil(CROSSINGS / this.cutoff);
    this.taps = this.half * 2;
    this.curve =
      this.up > MOST_PHASES
        ? Float64Array.from({ length: this.half * STEPS + 2 }, (_, i) => this.filter(i / STEPS))
        : null;
    this.heldStart = -this.half;
    this.held = new Float32Array(this.half * channels);
  }

  /** The windowed sinc at a distance from its middle, in input frames. */
  private filter(x: number): number {
    if (Math.abs(x) >= this.half) return 0;
    const w = besselI0(BETA * Math.sqrt(1 - (x / this.half) ** 2)) / PEAK;
    const at = Math.PI * x * this.cutoff;
    return (x === 0 ? 1 : Math.sin(at) / at) * w * this.cutoff;
  }
  /** The same, by the line between two points of the curve: less than 1e-7 apart. */
  private fromCurve(x: number): number {
    const at = Math.abs(x) * STEPS;
    const i = Math.floor(at);
    const [a, b] = [this.curve![i]!, this.curve![i + 1]!];
    return a + (b - a) * (at - i);
  }

  /** The taps of an output frame that stands `phase / up` behind an input frame. */
  private tapsOf(phase: number): Float64Array {
    const known = this.phases.get(phase);
    if (known) return known;
    const { taps, half, up } = this;
    const out = new Float64Array(taps);
    let sum = 0;
    for (let k = 0; k < taps; k++) {
      const x = k - half + 1 - phase / up;
      sum += out[k] = this.curve ? (Math.abs(x) < half ? this.fromCurve(x) : 0) : this.filter(x);
    }
    for (let k = 0; k < taps; k++) out[k]! /= sum;
    if (!this.curve) this.phases.set(phase, out);
    return out;
  }

  /** @param piece interleaved frames  @returns interleaved frames at the new rate */
  push(piece: Float32Array): Float32Array<ArrayBuffer> {
    const joined = new Float32Array(this.held.length + piece.length);
    joined.set(this.held);
    joined.set(piece, this.held.length);
    this.held = joined;
    this.received += piece.length / this.channels;
    return this.make(Infinity);
  }

  /** What is left when no more comes; the whole output has round(in frames * out/in) frames. */
  flush(): Float32Array<ArrayBuffer> {
    const total = Math.round((this.received * this.outRate) / this.inRate);
    const padded = new Float32Array(this.held.length + (this.taps + 2) * this.channels);
    padded.set(this.held);
    this.held = padded;
    return this.make(total);
  }

  private make(total: number): Float32Array<ArrayBuffer> {
    const { channels, taps, up, down, half } = this;
    const heldEnd = this.heldStart + this.held.length / channels;
    const most = Math.max(0, Math.ceil(((heldEnd - half) * up) / down) - this.made);
    const out = new Float32Array(Math.min(most, Math.max(0, total - this.made)) * channels);
    let n = 0;
    for (; n < out.length / channels; n++) {
      const at = this.made + n;
      const whole = Math.floor((at * down) / up);
      const filter = this.tapsOf(at * down - whole * up);
      const first = (whole - half + 1 - this.heldStart) * channels;
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < taps; k++) sum += this.held[first + k * channels + c]! * filter[k]!;
        out[n * channels + c] = sum;
      }
    }
    this.made += n;
    const need = Math.floor((this.made * down) / up) - half + 1;
    const drop = Math.max(0, Math.min(heldEnd, need) - this.heldStart);
    this.held = this.held.slice(drop * channels);
    this.heldStart += drop;
    return out;
  }
}
