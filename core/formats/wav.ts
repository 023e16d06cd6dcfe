import { Refusal } from '../base/refusal';
import type { Hertz, Samples } from '../base/units';

/**
 * RIFF/WAVE: "Multimedia Programming Interface and Data Specifications 1.0" (IBM and Microsoft, 1991), and
 * "Multiple Channel Audio Data and WAVE Files" (Microsoft, 2001) for WAVE_FORMAT_EXTENSIBLE.
 */
export interface WavFacts {
  readonly encoding: 'pcm' | 'float';
  readonly bits: 16 | 24 | 32;
  readonly channels: 1 | 2;
  readonly sampleRate: Hertz;
  readonly frames: Samples;
  /** Where the audio begins in the file, in bytes. */
  readonly dataOffset: number;
}

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
/** Chunks before the audio may be this large together; more is no audio file. */
const MOST_HEADER_BYTES = 4 << 20;

const no = (message: string) => new Refusal('audio', message);
const ascii = (view: DataView, at: number) =>
  String.fromCharCode(view.getUint8(at), view.getUint8(at + 1), view.getUint8(at + 2), view.getUint8(at + 3));

function readFormat(view: DataView, at: number, size: number) {
  if (size < 16) throw no(`its format chunk holds ${size} bytes where 16 are the least`);
  let code = view.getUint16(at, true);
  const channels = view.getUint16(at + 2, true);
  const sampleRate = view.getUint32(at + 4, true);
  const align = view.getUint16(at + 12, true);
  const bits = view.getUint16(at + 14, true);
  if (code === EXTENSIBLE) {
    if (size < 40) throw no('its extended format chunk is too short');
    code = view.getUint16(at + 24, true);
  }
  if (channels !== 1 && channels !== 2)
    throw no(`it has ${channels} channels; Zonula takes mono and stereo files: split it first`);
  if (!(code === PCM && (bits === 16 || bits === 24 || bits === 32)) && !(code === FLOAT && bits === 32))
    throw no(
      `its samples are ${code === PCM ? 'PCM' : code === FLOAT ? 'floating point' : `of encoding ${code}`}, ${bits} bits; Zonula takes PCM of 16, 24 and 32 bits and 32-bit float`,
    );
  if (align !== (channels * bits) / 8)
    throw no(`its frames are said to be ${align} bytes, which does not fit its format`);
  if (sampleRate < 8000 || sampleRate > 384000) throw no(`its sample rate is said to be ${sampleRate} Hz`);
  return { encoding: code === PCM ? 'pcm' : 'float', bits, channels, sampleRate } as const;
}

/**
 * Reads the chunks before the audio.
 * @param head the file from its first byte
 * @returns facts, or null where `head` does not reach the audio yet
 * @throws Refusal `audio` saying what is wrong with the file
 */
export function readWavHeader(head: Uint8Array): WavFacts | null {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  if (head.length < 12) return null;
  const riff = ascii(view, 0);
  if (riff !== 'RIFF' || ascii(view, 8) !== 'WAVE')
    throw no('it is not a WAV file: it does not begin as one, whatever its name says');
  let format: ReturnType<typeof readFormat> | null = null;
  let at = 12;
  while (at + 8 <= head.length) {
    const id = ascii(view, at);
    const size = view.getUint32(at + 4, true);
    if (!/^[\x20-\x7e]{4}$/.test(id))
      throw no(`there is no chunk at byte ${at}: a chunk before it lies about its size`);
    if (id === 'data') {
      if (!format) throw no('its audio comes before its format');
      const frameBytes = (format.channels * format.bits) / 8;
      if (size === 0) throw no('it holds no audio: its data chunk is empty');
      if (size % frameBytes !== 0) throw no(`its data chunk of ${size} bytes does not hold whole frames`);
      return {
        ...format,
        bits: format.bits,
        channels: format.channels,
        frames: size / frameBytes,
        dataOffset: at + 8,
      };
    }
    if (id === 'fmt ') {
      if (at + 8 + size > head.length) {
        if (size > 4096) throw no(`its format chunk lies about its size: ${size} bytes`);
        return null;
      }
      format = readFormat(view, at + 8, size);
    }
    at += 8 + size + (size & 1);
    if (at > MOST_HEADER_BYTES)
      throw no(`its \`${id}\` chunk says ${size} bytes: it lies about its size, or this is no audio file`);
  }
  return null;
}

/** Decodes whole frames to interleaved floats in -1..+1. A float that is not finite becomes 0. */
export function decodeFrames(
  bytes: Uint8Array,
  facts: Pick<WavFacts, 'encoding' | 'bits'>,
): Float32Array<ArrayBuffer> {
  const count = Math.floor(bytes.length / (facts.bits / 8));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Float32Array(count);
  if (facts.encoding === 'float') {
    new Uint8Array(out.buffer).set(bytes.subarray(0, count * 4));
    silenceNonFinite(out);
  } else if (facts.bits === 16) for (let i = 0; i < count; i++) out[i] = view.getInt16(i * 2, true) / 32768;
  else if (facts.bits === 24)
    for (let i = 0; i < count; i++)
      out[i] =
        (view.getUint8(i * 3) | (view.getUint8(i * 3 + 1) << 8) | (view.getInt8(i * 3 + 2) << 16)) / 8388608;
  else for (let i = 0; i < count; i++) out[i] = view.getInt32(i * 4, true) / 2147483648;
  return out;
}

/** IEC 60559: a binary32 number whose exponent bits are all set is infinite or no number. */
const EXPONENT = 0x7f800000;
/** Sets what is no finite number to 0. Every host of WebAssembly is little-endian, as the file is. */
export function silenceNonFinite(audio: Float32Array): void {
  const bits = new Int32Array(audio.buffer, audio.byteOffset, audio.length);
  for (let i = 0; i < bits.length; i++) if ((bits[i]! & EXPONENT) === EXPONENT) bits[i] = 0;
}

/** Decodes a WAV file that arrives in pieces of any size. */
export class WavStream {
  private held = new Uint8Array(0);
  private left = 0;
  private bytes = 0;
  facts: WavFacts | null = null;

  /** @returns interleaved frames, as far as they have arrived */
  push(piece: Uint8Array): Float32Array<ArrayBuffer> {
    this.bytes += piece.length;
    if (this.facts && this.left === 0) return new Float32Array(0);
    let rest = piece;
    if (this.held.length) {
      rest = new Uint8Array(this.held.length + piece.length);
      rest.set(this.held);
      rest.set(piece, this.held.length);
    }
    if (!this.facts) {
      const facts = readWavHeader(rest);
      if (!facts) {
        this.held = rest.slice();
        return new Float32Array(0);
      }
      this.facts = facts;
      this.left = facts.frames * this.frameBytes;
      rest = rest.subarray(facts.dataOffset);
    }
    const frame = this.frameBytes;
    const usable = Math.min(this.left, Math.floor(rest.length / frame) * frame);
    this.left -= usable;
    this.held = this.left === 0 ? new Uint8Array(0) : rest.slice(usable);
    return decodeFrames(rest.subarray(0, usable), this.facts);
  }

  /** @throws Refusal `audio` when the file ended before its audio did */
  end(): WavFacts {
    if (this.bytes === 0) throw no('it is empty');
    if (!this.facts) {
      if (this.bytes < 12) throw no('it is not a WAV file: it is too short to be one');
      throw no('it is cut off before its audio begins');
    }
    if (this.left > 0)
      throw no(
        `it is cut off: it says ${this.facts.frames} frames and holds ${this.facts.frames - Math.ceil(this.left / this.frameBytes)}`,
      );
    return this.facts;
  }

  private get frameBytes() {
    return (this.facts!.channels * this.facts!.bits) / 8;
  }
}

/** The 58 bytes before the audio of a 32-bit float WAV file: format, fact and data chunks. */
export function floatWavHeader(
  channels: number,
  sampleRate: Hertz,
  frames: Samples,
): Uint8Array<ArrayBuffer> {
  const dataBytes = frames * channels * 4;
  const head = new Uint8Array(58);
  const view = new DataView(head.buffer);
  const text = (at: number, t: string) => [...t].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)));
  text(0, 'RIFF');
  view.setUint32(4, 50 + dataBytes, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 18, true);
  view.setUint16(20, FLOAT, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, sampleRate * channels * 4, true);
  view.setUint16(32, channels * 4, true);
  view.setUint16(34, 32, true);
  text(38, 'fact');
  view.setUint32(42, 4, true);
  view.setUint32(46, frames, true);
  text(50, 'data');
  view.setUint32(54, dataBytes, true);
  return head;
}

/** The bytes of interleaved floats as they stand in a file: little-endian. */
export const floatBytes = (interleaved: Float32Array): Uint8Array =>
  new Uint8Array(interleaved.buffer, interleaved.byteOffset, interleaved.byteLength);
