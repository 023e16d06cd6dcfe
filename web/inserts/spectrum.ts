import FFT from 'fft.js';

/** Frames that are looked at: 12 Hz apart at 48 kHz. */
export const SPECTRUM_FRAMES = 4096;

/** Levels over frequency of a running signal: quick to rise, slow to fall. */
export class Spectrum {
  readonly frames = new Float32Array(SPECTRUM_FRAMES);
  /** Level of each bin, in dB; a sine of full scale stands at 0. */
  readonly levels = new Float32Array(SPECTRUM_FRAMES / 2).fill(-120);
  private readonly fft = new FFT(SPECTRUM_FRAMES);
  private readonly input = new Float64Array(SPECTRUM_FRAMES);
  private readonly output = this.fft.createComplexArray() as number[];
  // Hann's window; its mean is one half, so a sine's bin holds a quarter of the frames times its amplitude.
  private readonly window = Float64Array.from(
    { length: SPECTRUM_FRAMES },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SPECTRUM_FRAMES),
  );

  /** Takes up what stands in `frames`. @param fall decibels by which a bin may sink */
  update(fall: number): void {
    for (let i = 0; i < SPECTRUM_FRAMES; i++) this.input[i] = this.frames[i]! * this.window[i]!;
    this.fft.realTransform(this.output, this.input);
    const scale = 4 / SPECTRUM_FRAMES;
    for (let k = 0; k < this.levels.length; k++) {
      const level = 20 * Math.log10(Math.hypot(this.output[2 * k]!, this.output[2 * k + 1]!) * scale + 1e-7);
      this.levels[k] = Math.max(level, this.levels[k]! - fall);
    }
  }

  /** The highest level between two frequencies, or the nearest bin's where none lies between. */
  between(low: number, high: number, sampleRate: number): number {
    const bin = sampleRate / SPECTRUM_FRAMES;
    const from = Math.max(1, Math.round(low / bin));
    const to = Math.min(this.levels.length - 1, Math.max(from, Math.round(high / bin)));
    let top = -120;
    for (let k = from; k <= to; k++) if (this.levels[k]! > top) top = this.levels[k]!;
    return top;
  }
}
