import { flacMask } from './channels';
import { ascii, checkRate, cut, MOST_HEADER_BYTES, no, type AudioFacts, type FlacFacts } from './facts';
import type { FlacDecoder, FlacSamples } from './flacDecoder';
import { FlacFrameFinder, type FlacFrame } from './flacFrames';
import { depthBytes, depthOf } from './samples';
import type { Samples } from '../../base/units';

const STREAMINFO = 0;
const VORBIS_COMMENT = 4;
/** Samples of all channels that are decoded at once: a few bytes of a file may stand for an hour of silence. */
const MOST_AT_ONCE = 1 << 20;
/** Fewest and most bits of a sample: RFC 9639, 8.2. */
const [FEWEST_BITS, MOST_BITS] = [4, 32];

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
  if (bits < FEWEST_BITS || bits > MOST_BITS)
    throw no(`its samples are said to be of ${bits} bits; FLAC has ${FEWEST_BITS} to ${MOST_BITS}`);
  const md5 = [...new Uint8Array(view.buffer, view.byteOffset + at + 18, 16)]
    .map((b) => b.toString(16).padStart(2, '0'))
    .join('');
  return {
    format: { kind: 'int', bytes: Math.ceil(bits / 8) as 1 | 2 | 3 | 4, bigEndian: false, unsigned: false },
    channels,
    mask: flacMask(channels),
    sampleRate,
    frames: frames || null,
    begins: null,
    flac: {
      bits,
      md5: /^0+$/.test(md5) ? null : md5,
      streamInfo: new Uint8Array(view.buffer, view.byteOffset + at, 34).slice(),
    },
  };
}
export const isFlac = (head: Uint8Array) =>
  head.length >= 4 && ascii(new DataView(head.buffer, head.byteOffset, head.byteLength), 0) === 'fLaC';

/** Decodes the frames of a FLAC file, whose sums of CRC are looked at, and holds what comes out against the file's MD5. */
export class FlacFrames {
  /** Frames of audio that came out so far. */
  frames: Samples = 0;
  /** Whether what comes next cannot be decoded: nothing behind it is taken. */
  private broken = false;
  private readonly finder: FlacFrameFinder;

  private constructor(
    private readonly facts: AudioFacts & { readonly flac: FlacFacts },
    private readonly decoder: FlacDecoder,
    private readonly md5: Md5 | null,
  ) {
    this.finder = new FlacFrameFinder({ channels: facts.channels, bits: facts.flac.bits });
  }

  /** @param facts what its metadata tells */
  static async of(facts: AudioFacts & { readonly flac: FlacFacts }): Promise<FlacFrames> {
    // They are loaded where a FLAC file is met, and not before.
    const [{ FlacDecoder }, { createMD5 }] = await Promise.all([
      import('./flacDecoder'),
      import('hash-wasm'),
    ]);
    const decoder = await FlacDecoder.of(facts);
    return new FlacFrames(facts, decoder, facts.flac.md5 === null ? null : await createMD5());
  }

  /** @returns whole frames, interleaved, as they are kept, as far as they can be told from what has come, a part at a time */
  push = (piece: Uint8Array): AsyncGenerator<Uint8Array> => this.decode(this.finder.push(piece));

  /**
   * @param asFarAsItGoes whether less than the file says is taken too
   * @returns what was left, a part at a time
   * @throws Refusal `cut` where it ended too early, `audio` where it is damaged
   */
  async *end(asFarAsItGoes: boolean): AsyncGenerator<Uint8Array> {
    yield* this.decode(this.finder.end());
    await this.decoder.free();
    const { frames, flac } = this.facts;
    if (asFarAsItGoes) return;
    if (frames !== null && this.frames < frames)
      throw cut(`it is cut off or damaged: it says ${frames} frames, and ${this.frames} can be read`);
    if (this.broken || this.finder.broken || (frames !== null && this.frames > frames))
      throw cut(`it is damaged behind its frame ${this.frames}`);
    if (this.md5 && this.md5.digest('hex') !== flac.md5)
      throw no('it is damaged: its samples are not those of which it holds the MD5');
  }

  private async *decode(found: readonly FlacFrame[]): AsyncGenerator<Uint8Array> {
    const most = MOST_AT_ONCE / this.facts.channels;
    for (let from = 0, to = 0; from < found.length && !this.broken; from = to) {
      for (let sum = 0; to < found.length && (to === from || sum + found[to]!.samples <= most); to++)
        sum += found[to]!.samples;
      yield await this.decodeSome(found.slice(from, to));
    }
  }
  private async decodeSome(found: readonly FlacFrame[]): Promise<Uint8Array> {
    const { samples, whole } = await this.decoder.decode(found);
    this.broken = !whole;
    const { channels, format, flac } = this.facts;
    this.frames += samples.length / channels;
    const held = samples.BYTES_PER_ELEMENT * 8;
    const kept = depthBytes(depthOf(format));
    const bytes = bytesOf(samples, held - kept * 8, kept);
    // Whole bytes of bits are summed as they are kept.
    this.md5?.update(flac.bits === kept * 8 ? bytes : bytesOf(samples, held - flac.bits, format.bytes));
    return bytes;
  }
}

/** Whole numbers, moved down by some bits, as so many bytes each, little-endian. */
function bytesOf(samples: FlacSamples, down: number, bytes: number): Uint8Array {
  // Every host of WebAssembly is little-endian, as what is kept is.
  if (down === 0 && bytes === samples.BYTES_PER_ELEMENT)
    return new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  const out = new Uint8Array(samples.length * bytes);
  for (let i = 0, at = 0; i < samples.length; i++) {
    const v = samples[i]! >> down;
    for (let b = 0; b < bytes; b++) out[at++] = v >> (b * 8);
  }
  return out;
}

interface Md5 {
  update(data: Uint8Array): unknown;
  digest(form: 'hex'): string;
}
