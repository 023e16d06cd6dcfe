import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';

/** What is used of the reference encoder, which the package libflacjs is: libFLAC in JavaScript. */
interface Encoder {
  isReady(): boolean;
  on(event: 'ready', then: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    frames: number,
    verify: boolean,
    block: number,
  ): number;
  init_encoder_stream(encoder: number, write: (bytes: Uint8Array) => void): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
}
async function encoderOf(): Promise<Encoder> {
  const flac = (createRequire(import.meta.url)('libflacjs') as (kind: string) => Encoder)('min');
  if (!flac.isReady()) await new Promise<void>((done) => flac.on('ready', done));
  return flac;
}

export interface FlacOptions {
  readonly bits?: number;
  readonly channels?: number;
  readonly rate?: number;
  readonly level?: number;
  readonly block?: number;
  /** Whether the file tells how long it is, and the MD5 of its samples, as files of encoders that can seek do. */
  readonly told?: boolean;
}
/** Gives what makes FLAC files of interleaved whole numbers. */
export async function flacEncoder(): Promise<(samples: Int32Array, options?: FlacOptions) => Buffer> {
  const flac = await encoderOf();
  return (samples, options = {}) => encode(flac, samples, options);
}
function encode(flac: Encoder, samples: Int32Array, options: FlacOptions): Buffer {
  const { bits = 16, channels = 1, rate = 48000, level = 5, block = 1024, told = true } = options;
  const frames = samples.length / channels;
  const encoder = flac.create_libflac_encoder(rate, channels, bits, level, told ? frames : 0, false, block);
  const parts: Uint8Array[] = [];
  if (flac.init_encoder_stream(encoder, (b) => void parts.push(b.slice())) !== 0)
    throw new Error('The encoder does not take these options.');
  for (let at = 0; at < frames; at += 4096) {
    const n = Math.min(4096, frames - at);
    flac.FLAC__stream_encoder_process_interleaved(
      encoder,
      samples.slice(at * channels, (at + n) * channels),
      n,
    );
  }
  flac.FLAC__stream_encoder_finish(encoder);
  flac.FLAC__stream_encoder_delete(encoder);
  const file = Buffer.concat(parts);
  // The encoder cannot go back to write the MD5: RFC 9639, 8.2, has it at byte 26.
  if (told) md5Of(samples, bits).copy(file, 26);
  return file;
}
/** Whole numbers as bytes of a file, moved up by some bits. */
export const littleEndian = (samples: Int32Array, bytes: number, up = 0) => {
  const out = Buffer.alloc(samples.length * bytes);
  samples.forEach((v, i) => out.writeIntLE(v * 2 ** up, i * bytes, bytes));
  return out;
};
const md5Of = (samples: Int32Array, bits: number) =>
  createHash('md5')
    .update(littleEndian(samples, Math.ceil(bits / 8)))
    .digest();
