import type { Hertz } from '../session/units';

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** Modified Bessel function of the first kind, order 0, by its power series (Abramowitz and Stegun 9.6.12). */
function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 60; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** Zero crossings of the sinc on each side. */
const CROSSINGS = 32;
/** Kaiser window for about 100 dB of stop band: Kaiser 1974, beta = 0.1102 (A - 8.7). */
const BETA = 0.1102 * (100 - 8.7);

/**
 * Converts a sample rate by a polyphase windowed sinc, in pieces of any size. Output frame n stands at the time of
 * input position n * in/out: nothing is delayed.
 */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly half: number;
  private readonly taps: number;
  private readonly phases: Float64Array;
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
    const cutoff = Math.min(1, outRate / inRate) * 0.97;
    this.half = Math.ceil(CROSSINGS / cutoff);
    this.taps = this.half * 2;
    this.phases = new Float64Array(this.up * this.taps);
    const i0 = besselI0(BETA);
    for (let p = 0; p < this.up; p++) {
      let sum = 0;
      for (let k = 0; k < this.taps; k++) {
        const x = k - this.half + 1 - p / this.up;
        const w = Math.abs(x) >= this.half ? 0 : besselI0(BETA * Math.sqrt(1 - (x / this.half) ** 2)) / i0;
        const s = x === 0 ? 1 : Math.sin(Math.PI * x * cutoff) / (Math.PI * x * cutoff);
        sum += this.phases[p * this.taps + k] = s * w * cutoff;
      }
      for (let k = 0; k < this.taps; k++) this.phases[p * this.taps + k]! /= sum;
    }
    this.heldStart = -this.half;
    this.held = new Float32Array(this.half * channels);
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
      const phase = (at * down - whole * up) * taps;
      const first = (whole - half + 1 - this.heldStart) * channels;
      for (let c = 0; c < channels; c++) {
        let sum = 0;
        for (let k = 0; k < taps; k++) sum += this.held[first + k * channels + c]! * this.phases[phase + k]!;
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
