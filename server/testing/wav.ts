import { floatBytes, floatWavHeader } from '../../core/formats/audio/wav';

/** A 32-bit float WAV file of a tone. */
export function toneFile(frames = 4800, channels = 1, rate = 48000, hertz = 440): Uint8Array<ArrayBuffer> {
  const audio = Float32Array.from(
    { length: frames * channels },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * hertz * Math.floor(i / channels)) / rate),
  );
  return new Uint8Array(Buffer.concat([floatWavHeader(channels, rate, frames), floatBytes(audio)]));
}
