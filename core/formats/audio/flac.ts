import { flacMask } from './channels';
import { ascii, checkRate, cut, MOST_HEADER_BYTES, no, type AudioFacts, type FlacFacts } from './facts';
import { depthOf } from './samples';
import type { Samples } from '../../base/units';

const STREAMINFO = 0;
const VORBIS_COMMENT = 4;
/** Bits of a sample that the decoder gives as they are. */
const BITS = [8, 16, 24];

/** The channel mask that comments may hold: RFC 9639, 8.6.2. */
function maskOf(comments: Uint8Array): number | null {
  const text = new TextDecoder('latin1').decode(comments);
  const found = /WAVEFORMATEXTENSIBLE_CHANNEL_MASK=0x([0-9a-f]{1,8})/i.exec(text);
  return found ? parseInt(found[1]!, 16) || null : null;
}

/**
 * Reads the metadata blocks of a FLAC file: RFC 9639, 8.
 * @param head the file from its first byte, twelve at least
 * @returns facts, or null where `head` does not reach the audio yet
 * @throws Refusal `audio` saying what is wrong with the file
 */
export function readFlacHeader(head: Uint8Array): AudioFacts | null {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  let facts: Omit<AudioFacts, 'dataOffset'> | null = null;
  for (let at = 4; at + 4 <= head.length;) {
    const type = view.getUint8(at) & 0x7f;
    const last = view.getUint8(at) >= 0x80;
    const size = view.getUint32(at) & 0xffffff;
    const next = at + 4 + size;
    if (next > MOST_HEADER_BYTES) throw no('more than 4 MB stand before its audio');
    if ((type === STREAMINFO) !== (facts === null))
      throw no('its first block does not tell of its audio: it lies about its size, or this is no FLAC file');
    if (type === STREAMINFO || type === VORBIS_COMMENT) {
      if (type === STREAMINFO && size !== 34)
        throw no(`its first block holds ${size} bytes where 34 are right`);
      if (next > head.length) return null;
      if (type === STREAMINFO) facts = readStreamInfo(view, at + 4);
      else facts = { ...facts!, mask: maskOf(head.subarray(at + 4, next)) ?? facts!.mask };
    }
    at = next;
    if (last) return { ...facts!, dataOffset: at };
  }
  return null;
}

function readStreamInfo(view: DataView, at: number): Omit<AudioFacts, 'dataOffset'> {
  const packed = view.getBigUint64(at + 10);
  const sampleRate = checkRate(Number(packed >> 44n));
  const channels = Number((packed >> 41n) & 7n) + 1;
  const bits = Number((packed >> 36n) & 31n) + 1;
  const frames = Number(packed & 0xfffffffffn);
  if (!BITS.includes(bits)) throw no(`its samples are of ${bits} bits; FLAC files of 8, 16 and 24 come in`);
  const md5 = [...new Uint8Array(view.buffer, view.byteOffset + at + 18, 16)]
    .map((b) => b.toString(16).padStart(2, '0'))
    .join('');
  return {
    format: { kind: 'int', bytes: Math.ceil(bits / 8) as 1 | 2 | 3, bigEndian: false, unsigned: false },
    channels,
    mask: flacMask(channels),
    sampleRate,
    frames: frames || null,
    begins: null,
    flac: { bits, md5: /^0+$/.test(md5) ? null : md5 },
  };
}
export const isFlac = (head: Uint8Array) =>
  head.length >= 4 && ascii(new DataView(head.buffer, head.byteOffset, head.byteLength), 0) === 'fLaC';

/** Decodes the frames of a FLAC file, whose sums of CRC are looked at, and holds what comes out against the file's MD5. */
export class FlacFrames {
  /** Frames of audio that came out so far. */
  frames: Samples = 0;
  /** Whether what comes next is missing or damaged: nothing behind it is taken. */
  private broken = false;

  private constructor(
    private readonly facts: AudioFacts & { readonly flac: FlacFacts },
    private readonly parser: Parser,
    private readonly decoder: Decoder,
    private readonly md5: Md5 | null,
  ) {}

  /** @param facts what its metadata tells */
  static async of(facts: AudioFacts & { readonly flac: FlacFacts }): Promise<FlacFrames> {
    // They are loaded where a FLAC file is met, and not before.
    const [{ default: CodecParser }, { FLACDecoder }, { createMD5 }] = await Promise.all([
      import('codec-parser'),
      import('@wasm-audio-decoders/flac'),
      import('hash-wasm'),
    ]);
    const decoder = new FLACDecoder();
    await decoder.ready;
    const parser = new CodecParser('audio/flac', { enableFrameCRC32: false }) as unknown as Parser;
    return new FlacFrames(facts, parser, decoder, facts.flac.md5 === null ? null : await createMD5());
  }

  /** @returns whole frames, interleaved, as they are kept, as far as they can be told from what has come */
  push = (piece: Uint8Array): Promise<Uint8Array> => this.decode([...this.parser.parseChunk(piece)]);

  /**
   * @param asFarAsItGoes whether less than the file says is taken too
   * @returns what was left
   * @throws Refusal `cut` where it ended too early, `audio` where it is damaged
   */
  async end(asFarAsItGoes: boolean): Promise<Uint8Array> {
    const rest = this.broken ? new Uint8Array(0) : await this.decode([...this.parser.flush()]);
    this.decoder.free();
    const { frames, flac } = this.facts;
    if (asFarAsItGoes) return rest;
    if (frames !== null && this.frames < frames)
      throw cut(`it is cut off or damaged: it says ${frames} frames, and ${this.frames} can be read`);
    if (this.broken || (frames !== null && this.frames > frames))
      throw cut(`it is damaged behind its frame ${this.frames}`);
    if (this.md5 && this.md5.digest('hex') !== flac.md5)
      throw no('it is damaged: its samples are not those of which it holds the MD5');
    return rest;
  }

  private async decode(parsed: readonly ParsedFrame[]): Promise<Uint8Array> {
    const { channels, format, flac } = this.facts;
    const whole: Uint8Array[] = [];
    let next = this.frames;
    for (const { data, samples, header } of parsed) {
      // Frames count themselves: what was damaged between two of them was passed over.
      const at =
        header.blockingStrategy === 'Fixed'
          ? header.frameNumber! * this.blockSize(header)
          : header.sampleNumber!;
      const fits = header.channels === channels && header.bitDepth === flac.bits;
      if (this.broken || at !== next || !fits) {
        this.broken = true;
        break;
      }
      whole.push(data);
      next += samples;
    }
    if (whole.length === 0) return new Uint8Array(0);
    const { channelData, samplesDecoded, errors } = await this.decoder.decodeFrames(whole);
    if (errors.length || channelData.length !== channels || this.frames + samplesDecoded !== next) {
      this.broken = true;
      return new Uint8Array(0);
    }
    this.frames = next;
    if (this.md5) this.md5.update(integers(channelData, samplesDecoded, flac.bits, format.bytes, 0));
    const kept = depthOf(format) === 's16' ? 2 : 3;
    return integers(channelData, samplesDecoded, flac.bits, kept, kept * 8 - flac.bits);
  }
  private size = 0;
  /** Frames of a block of a file whose blocks are of one size: the last may be shorter. */
  private blockSize(header: ParsedFrame['header']): number {
    return (this.size ||= header.blockSize);
  }
}

/** Floats of so many bits as whole numbers, little-endian, interleaved, moved up by some bits. */
function integers(
  from: readonly Float32Array[],
  frames: Samples,
  bits: number,
  bytes: number,
  up: number,
): Uint8Array {
  const out = new Uint8Array(frames * from.length * bytes);
  // The decoder makes its highest whole number 1.
  const full = 2 ** (bits - 1) - 1;
  from.forEach((channel, c) => {
    for (let i = 0, at = c * bytes; i < frames; i++, at += from.length * bytes) {
      const v = Math.round(channel[i]! * full) << up;
      for (let b = 0; b < bytes; b++) out[at + b] = v >> (b * 8);
    }
  });
  return out;
}

/** What is used of the packages that find frames, decode and sum. */
interface ParsedFrame {
  readonly data: Uint8Array;
  readonly samples: number;
  readonly header: {
    readonly blockingStrategy: string;
    readonly blockSize: number;
    readonly channels: number;
    readonly bitDepth: number | string;
    readonly frameNumber?: number;
    readonly sampleNumber?: number;
  };
}
interface Parser {
  parseChunk(piece: Uint8Array): Iterable<ParsedFrame>;
  flush(): Iterable<ParsedFrame>;
}
interface Decoder {
  decodeFrames(frames: Uint8Array[]): Promise<{
    readonly channelData: readonly Float32Array[];
    readonly samplesDecoded: number;
    readonly errors: readonly unknown[];
  }>;
  free(): void;
}
interface Md5 {
  update(data: Uint8Array): unknown;
  digest(form: 'hex'): string;
}
