import FFT from 'fft.js';
import { describe, expect, it } from 'vitest';
import { Resampler } from './resample';

const tone = (hertz: number, rate: number, frames: number) =>
  Float32Array.from({ length: frames }, (_, i) => Math.sin((2 * Math.PI * hertz * i) / rate));
function convert(audio: Float32Array, from: number, to: number, piece = 1000): Float32Array {
  const r = new Resampler(from, to, 1);
  const out: number[] = [];
  for (let at = 0; at < audio.length; at += piece) out.push(...r.push(audio.subarray(at, at + piece)));
  out.push(...r.flush());
  return new Float32Array(out);
}
/** Level of the strongest bin and of the strongest one further than 80 bins from it (Hann side lobes have fallen below -100 dB there), in dB, by an independent FFT package (fft.js), Hann window. */
function spectrum(audio: Float32Array, size = 8192) {
  const fft = new FFT(size);
  const input = Array.from(
    { length: size },
    (_, i) => audio[i + 500]! * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size)),
  );
  const out = fft.createComplexArray() as number[];
  fft.realTransform(out, input);
  const level = Array.from(
    { length: size / 2 },
    (_, k) => 20 * Math.log10(Math.hypot(out[2 * k]!, out[2 * k + 1]!) / (size / 4) + 1e-12),
  );
  const top = level.indexOf(Math.max(...level));
  const rest = Math.max(...level.filter((_, k) => Math.abs(k - top) > 80));
  return { top, level: level[top]!, rest };
}

describe('a sample rate conversion', () => {
  it.each([
    [44100, 48000],
    [96000, 48000],
    [48000, 44100],
    [22050, 48000],
    [32000, 96000],
    // Rates that no small ratio leads between: the filter comes from its curve.
    [44101, 48000],
    [383999, 48000],
  ])('from %s to %s Hz keeps pitch and level of a tone, and adds nothing above -90 dB', (from, to) => {
    const out = convert(tone(1000, from, from), from, to);
    const { top, level, rest } = spectrum(out);
    expect(Math.abs((top * to) / 8192 - 1000)).toBeLessThan(to / 8192);
    // Hann scalloping takes up to 1.42 dB (Harris, Proc. IEEE 66(1), 1978, table I).
    expect(level).toBeGreaterThan(-1.5);
    expect(level).toBeLessThan(0.05);
    expect(rest).toBeLessThan(-90);
  });
  it('lets no tone above the new band fold back', () => {
    const out = convert(tone(30000, 96000, 96000), 96000, 48000);
    expect(spectrum(out).level).toBeLessThan(-90);
  });
  it.each([
    [44100, 48000, 44100],
    [48000, 44100, 1234],
    [96000, 44100, 7],
  ])('from %s to %s Hz of %s frames has the length that time asks for', (from, to, frames) => {
    expect(convert(new Float32Array(frames), from, to).length).toBe(Math.round((frames * to) / from));
  });
  it('does not depend on how the audio is cut', () => {
    const audio = tone(440, 44100, 5000);
    expect(convert(audio, 44100, 48000, 17)).toEqual(convert(audio, 44100, 48000, 5000));
  });
  it('delays nothing: an impulse stays at its time', () => {
    const audio = new Float32Array(4410);
    audio[441] = 1;
    const out = convert(audio, 44100, 48000);
    expect(out.indexOf(Math.max(...out))).toBe(480);
  });
});
