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

export interface PlainFlac {
  readonly bits: number;
  readonly channels: number;
  /** Samples of each block in turn; where they are not of one size, blocks are counted by samples. */
  readonly blocks: readonly number[];
  /** Of the first sample, counted in blocks of the first size, or in samples. */
  readonly from?: number;
}
/**
 * A FLAC file of samples that are written out as they are, of any depth and blocks, which the reference encoder does not make: RFC
 * 9639, 8.2 and 9, bit by bit.
 */
export function plainFlac(samples: Int32Array, { bits, channels, blocks, from = 0 }: PlainFlac): Buffer {
  const fixed = blocks.slice(0, -1).every((b) => b === blocks[0]) && blocks.at(-1)! <= blocks[0]!;
  const frames = samples.length / channels;
  const info = new BitWriter();
  info
    .add(16, Math.min(...blocks))
    .add(16, Math.max(...blocks))
    .add(24, 0)
    .add(24, 0);
  info
    .add(20, 48000)
    .add(3, channels - 1)
    .add(5, bits - 1)
    .add(4, 0)
    .add(32, frames);
  const parts: Uint8Array[] = [Buffer.from('fLaC'), Buffer.from([0x80, 0, 0, 34])];
  parts.push(info.bytes(), md5Of(samples, bits));
  let at = 0;
  blocks.forEach((block, k) => {
    const head = new BitWriter();
    // A block of up to 256 is told in a byte behind the number, of more in two.
    head
      .add(15, 0x7ffc)
      .add(1, fixed ? 0 : 1)
      .add(4, block <= 256 ? 6 : 7)
      .add(4, 0);
    const depths: Record<number, number> = { 8: 1, 12: 2, 16: 4, 20: 5, 24: 6, 32: 7 };
    head
      .add(4, channels - 1)
      .add(3, depths[bits] ?? 0)
      .add(1, 0);
    coded(from + (fixed ? k : at)).forEach((byte) => head.add(8, byte));
    head.add(block <= 256 ? 8 : 16, block - 1);
    head.add(8, remainder(head.bytes(), 8, 0x07));
    const frame = new BitWriter(head.bytes());
    for (let c = 0; c < channels; c++) {
      frame.add(8, 2);
      for (let i = 0; i < block; i++) frame.add(bits, samples[(at + i) * channels + c]!);
    }
    const body = frame.bytes();
    const sum = remainder(body, 16, 0x8005);
    parts.push(body, Buffer.from([sum >> 8, sum & 255]));
    at += block;
  });
  return Buffer.concat(parts);
}
/** A frame of silence of one channel of 16 bits: a constant subframe, RFC 9639, 9.2.2. @param number of the frame */
export function silentFrame(samples: number, number: number): Buffer {
  const head = new BitWriter();
  head.add(15, 0x7ffc).add(1, 0).add(4, 7).add(4, 0).add(4, 0).add(3, 4).add(1, 0);
  coded(number).forEach((byte) => head.add(8, byte));
  head.add(16, samples - 1);
  head.add(8, remainder(head.bytes(), 8, 0x07));
  const body = new BitWriter(head.bytes()).add(8, 0).add(16, 0).bytes();
  const sum = remainder(body, 16, 0x8005);
  return Buffer.concat([body, Buffer.from([sum >> 8, sum & 255])]);
}
/** A number as UTF-8 writes one, of up to 36 bits: RFC 9639, 9.1.5. */
function coded(number: number): number[] {
  if (number < 0x80) return [number];
  const more = [11, 16, 21, 26, 31, 36].findIndex((bits) => number < 2 ** bits) + 1;
  const rest = Array.from(
    { length: more },
    (_, k) => 0x80 | (Math.floor(number / 64 ** (more - 1 - k)) % 64),
  );
  return [((0xff80 >> more) & 0xff) | Math.floor(number / 64 ** more), ...rest];
}
/** What is left of a division by a polynomial, bit by bit. */
function remainder(bytes: Uint8Array, bits: number, polynomial: number): number {
  let rest = 0;
  for (const byte of bytes)
    for (let bit = 7; bit >= 0; bit--) {
      const over = ((rest >> (bits - 1)) ^ (byte >> bit)) & 1;
      rest = ((rest << 1) & (2 ** bits - 1)) ^ (over ? polynomial : 0);
    }
  return rest;
}
class BitWriter {
  private readonly all: number[] = [];
  constructor(first: Uint8Array = new Uint8Array(0)) {
    first.forEach((byte) => this.add(8, byte));
  }
  add(bits: number, value: number): this {
    for (let bit = bits - 1; bit >= 0; bit--) this.all.push((value >> bit) & 1);
    return this;
  }
  /** What was added, filled up to a whole byte. */
  bytes() {
    const out = Buffer.alloc(Math.ceil(this.all.length / 8));
    this.all.forEach((bit, i) => (out[i >> 3]! |= bit << (7 - (i & 7))));
    return out;
  }
}
