/**
 * The interpolating filter of ITU-R BS.1770-4, annex 2: four phases of twelve taps, for four times the sample rate (from
 * memory; a test holds an independent meter against it). The engine's limiter has the same numbers.
 */
export const TRUE_PEAK_TAPS: readonly (readonly number[])[] = (() => {
  const first = [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.137329101562,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ];
  const second = [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ];
  return [first, second, [...second].reverse(), [...first].reverse()];
})();

/** The highest value of a signal between its samples and at them; 1 is full scale. */
export function truePeak(audio: ArrayLike<number>): number {
  let peak = 0;
  for (let n = 0; n < audio.length + 11; n++) {
    if (n < audio.length) peak = Math.max(peak, Math.abs(audio[n]!));
    for (const taps of TRUE_PEAK_TAPS) {
      let sum = 0;
      for (let k = 0; k < 12; k++) sum += taps[k]! * (audio[n - k] ?? 0);
      peak = Math.max(peak, Math.abs(sum));
    }
  }
  return peak;
}

/** Phases and taps a phase of the finer measure. */
const PHASES = 16;
const TAPS = 48;

/** The modified Bessel function of order 0, by its series. */
function bessel(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; k < 40; k++) sum += term *= (x / (2 * k)) ** 2;
  return sum;
}
const fine: { readonly phases: readonly Float64Array[]; readonly most: number } = (() => {
  // Kaiser's window for 72 dB: J. F. Kaiser, ISCAS 1974.
  const beta = 0.1102 * (72 - 8.7);
  let most = 0;
  const phases = Array.from({ length: PHASES }, (_, p) => {
    const raw = Float64Array.from({ length: TAPS }, (__, k) => {
      const t = k - (TAPS / 2 - 1) - p / PHASES;
      const sinc = t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
      const r = (2 * t) / TAPS;
      return Math.abs(r) >= 1 ? 0 : (sinc * bessel(beta * Math.sqrt(1 - r * r))) / bessel(beta);
    });
    const sum = raw.reduce((a, b) => a + b, 0);
    const taps = raw.map((v) => v / sum);
    most = Math.max(
      most,
      taps.reduce((a, b) => a + Math.abs(b), 0),
    );
    return taps;
  });
  return { phases, most };
})();

/** The value half way between two samples: its taps are the same both ways. */
function halfway(x: Float64Array, at: number, taps: Float64Array): number {
  let a = 0;
  let b = 0;
  const last = at + TAPS - 1;
  for (let k = 0; k < TAPS / 2; k += 2) {
    a += taps[k]! * (x[at + k]! + x[last - k]!);
    b += taps[k + 1]! * (x[at + k + 1]! + x[last - k - 1]!);
  }
  return a + b;
}
/** A value between samples; four sums side by side, so that none waits for the one before. */
function between(x: Float64Array, at: number, taps: Float64Array): number {
  let a = 0;
  let b = 0;
  let c = 0;
  let d = 0;
  for (let k = 0; k < TAPS; k += 4) {
    a += taps[k]! * x[at + k]!;
    b += taps[k + 1]! * x[at + k + 1]!;
    c += taps[k + 2]! * x[at + k + 2]!;
    d += taps[k + 3]! * x[at + k + 3]!;
  }
  return a + b + (c + d);
}

/**
 * From two to sixteen times the rate: the phases that each step adds, and by how much the highest value can lie over the one beside
 * it at the rate so far: 1 / cos(pi / 4), 1 / cos(pi / 8) and 1 / cos(pi / 16), as a band-limited signal falls no faster from its
 * highest value than a cosine at the end of its band (R. J. Duffin and A. C. Schaeffer, 1938); and a little for the filter.
 */
const FINER: readonly { readonly phases: readonly number[]; readonly over: number }[] = [4, 2, 1].map(
  (step) => ({
    phases: Array.from({ length: PHASES / 2 / step }, (_, i) => (2 * i + 1) * step),
    over: 1.01 / Math.cos((Math.PI * step) / PHASES),
  }),
);
/** Samples that are looked at together, and a part of them. */
const STRETCH = 32;
const PART = 16;

/**
 * Measures the true peak, piece by piece, at sixteen times the sample rate: what BS.1770-5, annex 2, asks for, within 0.1 dB up to
 * 20 kHz of 44.1 kHz, where its own filter at four times the rate is up to 0.6 dB low.
 */
export class TruePeakMeter {
  private readonly history: Float64Array[];
  /** The last samples and those that come, of one channel; and the highest of each {@link PART} of them. */
  private x = new Float64Array(0);
  private highest = new Float64Array(0);
  private readonly near = new Float64Array(STRETCH + 2);
  private top = 0;

  constructor(private readonly channels: number) {
    this.history = Array.from({ length: channels }, () => new Float64Array(TAPS));
  }

  /** @param audio interleaved frames */
  push(audio: ArrayLike<number>): void {
    const { channels } = this;
    const frames = Math.floor(audio.length / channels);
    if (this.x.length < TAPS + frames) {
      this.x = new Float64Array(TAPS + frames);
      this.highest = new Float64Array(Math.ceil((TAPS + frames) / PART));
    }
    const { x, highest } = this;
    for (let c = 0; c < channels; c++) {
      x.set(this.history[c]!);
      for (let i = 0, at = c; i < frames; i++, at += channels) x[TAPS + i] = audio[at]!;
      const total = TAPS + frames;
      for (let part = 0; part * PART < total; part++) {
        let most = 0;
        const end = Math.min(total, (part + 1) * PART);
        for (let i = part * PART; i < end; i++) {
          const value = Math.abs(x[i]!);
          if (value > most) most = value;
        }
        highest[part] = most;
        // The history has been counted.
        if (part >= TAPS / PART) this.top = Math.max(this.top, most);
      }
      this.look(frames);
      this.history[c]!.set(x.subarray(frames, total));
    }
  }

  // Where no value between samples can be higher than what was found, nothing is worked out.
  private look(frames: number) {
    const { x, near, highest } = this;
    for (let from = 0; from < frames; from += STRETCH) {
      const length = Math.min(frames - from, STRETCH);
      let most = 0;
      for (let part = from / PART; part * PART < from + length + TAPS; part++)
        most = Math.max(most, highest[part]!);
      if (most * fine.most <= this.top) continue;
      // The highest around each sample at the rate so far, its neighbours' among them.
      near.fill(Infinity);
      for (let n = 0; n < length; n++) {
        const value = Math.abs(halfway(x, from + n + 1, fine.phases[PHASES / 2]!));
        near[n + 1] = Math.max(value, Math.abs(x[from + n + TAPS / 2]!));
        if (value > this.top) this.top = value;
      }
      FINER.forEach(({ phases, over }) => {
        for (let n = 0; n < length; n++) {
          const around = Math.max(near[n]!, near[n + 1]!, near[n + 2]!);
          if (around * over <= this.top) continue;
          let top = near[n + 1]!;
          for (const p of phases) top = Math.max(top, Math.abs(between(x, from + n + 1, fine.phases[p]!)));
          near[n + 1] = top;
          if (top > this.top) this.top = top;
        }
      });
    }
  }

  /** The highest value so far; 1 is full scale. What lies in the last half millisecond is counted once silence has followed. */
  get peak(): number {
    return this.top;
  }
  /** Lets silence follow. */
  end(): number {
    this.push(new Float32Array(TAPS * this.channels));
    return this.top;
  }
}
