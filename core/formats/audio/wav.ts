import { afterChunk, ascii, checkChannels, checkRate, chunkId, no, type AudioFacts } from './facts';
import { depthBytes, type Depth, type SampleFormat } from './samples';
import type { Hertz, Samples } from '../../base/units';

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
/** The size of a chunk that is told elsewhere: ITU-R BS.2088-1. */
const ELSEWHERE = 0xffffffff;
/** Bytes of a `ds64` chunk before its table, and of an entry of that. */
const DS64 = 28;
const ENTRY = 12;

/** Where the time of a `bext` chunk stands in it. */
const TIME_REFERENCE = 338;

/** Files of the WAVE form begin so: little-endian, big-endian, and larger than 4 GB. */
export const WAVE_FORMS = ['RIFF', 'RIFX', 'RF64', 'BW64'];

function readFormat(view: DataView, at: number, size: number, little: boolean) {
  if (size < 16) throw no(`its format chunk holds ${size} bytes where 16 are the least`);
  let code = view.getUint16(at, little);
  const channels = checkChannels(view.getUint16(at + 2, little));
  const sampleRate = view.getUint32(at + 4, little);
  const align = view.getUint16(at + 12, little);
  const bits = view.getUint16(at + 14, little);
  let mask: number | null = null;
  if (code === EXTENSIBLE) {
    if (size < 40) throw no('its extended format chunk is too short');
    mask = view.getUint32(at + 20, little) || null;
    code = view.getUint16(at + 24, little);
  }
  const bytes = Math.ceil(bits / 8);
  if (!(code === PCM && bits >= 1 && bits <= 32) && !(code === FLOAT && (bits === 32 || bits === 64)))
    throw no(
      `its samples are ${code === PCM ? 'PCM' : code === FLOAT ? 'floating point' : `of encoding ${code}`}, ${bits} bits; Zonula takes PCM of 8 to 32 bits and floats of 32 and 64`,
    );
  if (align !== channels * bytes)
    throw no(`its frames are said to be ${align} bytes, which does not fit its format`);
  const format: SampleFormat = {
    kind: code === PCM ? 'int' : 'float',
    bytes: bytes as SampleFormat['bytes'],
    bigEndian: !little,
    unsigned: bytes === 1,
  };
  return { format, channels, mask, sampleRate: checkRate(sampleRate) } as const;
}

/**
 * Reads the chunks before the audio of a file of the WAVE form: "Multimedia Programming Interface and Data Specifications 1.0"
 * (IBM and Microsoft, 1991), "Multiple Channel Audio Data and WAVE Files" (Microsoft, 2001) for the extended format, and ITU-R
 * BS.2088-1 (also EBU Tech 3306) for what is larger than 4 GB. A `bext` chunk tells when it begins: EBU Tech 3285, version 2.
 * @param head the file from its first byte, twelve at least
 * @returns facts, or null where `head` does not reach the audio yet
 * @throws Refusal `audio` saying what is wrong with the file
 */
export function readWavHeader(head: Uint8Array): AudioFacts | null {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const form = ascii(view, 0);
  if (!WAVE_FORMS.includes(form) || ascii(view, 8) !== 'WAVE')
    throw no('it is not a WAV file: it does not begin as one, whatever its name says');
  const little = form !== 'RIFX';
  const large = form === 'RF64' || form === 'BW64';
  let format: ReturnType<typeof readFormat> | null = null;
  /** Sizes that do not fit where they belong, by chunk. */
  const sizes = new Map<string, number>();
  let begins: number | null = null;
  let at = 12;
  while (at + 8 <= head.length) {
    const id = chunkId(view, at);
    let size = view.getUint32(at + 4, little);
    if (large && size === ELSEWHERE) {
      const told = sizes.get(id);
      if (told === undefined) throw no(`its \`${id}\` chunk does not say how large it is`);
      size = told;
    }
    if (id === 'data') {
      if (!format) throw no('its audio comes before its format');
      const each = format.channels * format.format.bytes;
      if (size === 0) throw no('it holds no audio: its data chunk is empty');
      if (size % each !== 0) throw no(`its data chunk of ${size} bytes does not hold whole frames`);
      return { ...format, frames: size / each, begins, dataOffset: at + 8, flac: null };
    }
    if (id === 'fmt ' || (large && id === 'ds64')) {
      if (at + 8 + size > head.length) {
        if (size > 4096 && id === 'fmt ') throw no(`its format chunk lies about its size: ${size} bytes`);
        afterChunk(at, id, size);
        return null;
      }
      if (id === 'fmt ') format = readFormat(view, at + 8, size, little);
      else readSizes(view, at + 8, size, sizes);
    }
    if (id === 'bext' && size >= TIME_REFERENCE + 8) {
      if (at + 8 + TIME_REFERENCE + 8 > head.length) {
        afterChunk(at, id, size);
        return null;
      }
      const told = Number(view.getBigUint64(at + 8 + TIME_REFERENCE, little));
      // What is no time of a day, at the highest rate that there is, says nothing.
      begins = told <= 86_400 * 384_000 ? told : null;
    }
    at = afterChunk(at, id, size);
  }
  return null;
}

function readSizes(view: DataView, at: number, size: number, sizes: Map<string, number>): void {
  if (size < DS64) throw no(`its \`ds64\` chunk holds ${size} bytes where ${DS64} are the least`);
  const wide = (from: number) => {
    const n = Number(view.getBigUint64(from, true));
    if (!Number.isSafeInteger(n)) throw no('its `ds64` chunk lies about the sizes of others');
    return n;
  };
  sizes.set('data', wide(at + 8));
  const entries = Math.min(view.getUint32(at + 24, true), Math.floor((size - DS64) / ENTRY));
  for (let k = 0; k < entries; k++) {
    const from = at + DS64 + k * ENTRY;
    sizes.set(ascii(view, from), wide(from + 4));
  }
}

/** What a chunk's size can say. */
const MOST_SIZE = 0xffffffff - 1;

/**
 * The bytes before the audio of a WAV file: format, fact where it is of floats, and data chunks; with a `ds64` chunk, as RF64, where
 * it is larger than 4 GB.
 */
export function wavHeader(
  depth: Depth,
  channels: number,
  sampleRate: Hertz,
  frames: Samples,
): Uint8Array<ArrayBuffer> {
  const each = channels * depthBytes(depth);
  const dataBytes = frames * each;
  const float = depth === 'f32';
  const ours = 12 + 8 + (float ? 18 + 12 : 16) + 8;
  const padded = dataBytes + (dataBytes & 1);
  const large = ours - 8 + padded > MOST_SIZE;
  const head = new Uint8Array(ours + (large ? 8 + DS64 : 0));
  const view = new DataView(head.buffer);
  let at = 0;
  const text = (t: string) => [...t].forEach((c) => view.setUint8(at++, c.charCodeAt(0)));
  const two = (n: number) => (view.setUint16(at, n, true), (at += 2));
  const four = (n: number) => (view.setUint32(at, n, true), (at += 4));
  const eight = (n: number) => (view.setBigUint64(at, BigInt(n), true), (at += 8));
  text(large ? 'RF64' : 'RIFF');
  four(large ? ELSEWHERE : ours - 8 + padded);
  text('WAVE');
  if (large) {
    text('ds64');
    four(DS64);
    eight(head.length - 8 + padded);
    eight(dataBytes);
    eight(frames);
    four(0);
  }
  text('fmt ');
  four(float ? 18 : 16);
  two(float ? FLOAT : PCM);
  two(channels);
  four(sampleRate);
  four(sampleRate * each);
  two(each);
  two(depthBytes(depth) * 8);
  if (float) {
    two(0);
    text('fact');
    four(4);
    four(large ? ELSEWHERE : frames);
  }
  text('data');
  four(large ? ELSEWHERE : dataBytes);
  return head;
}

/** The 58 bytes before the audio of a 32-bit float WAV file: format, fact and data chunks. */
export const floatWavHeader = (channels: number, sampleRate: Hertz, frames: Samples) =>
  wavHeader('f32', channels, sampleRate, frames);

/** The bytes of interleaved floats as they stand in a file: little-endian. */
export const floatBytes = (interleaved: Float32Array): Uint8Array =>
  new Uint8Array(interleaved.buffer, interleaved.byteOffset, interleaved.byteLength);
