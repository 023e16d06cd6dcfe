import { Refusal } from '../../base/refusal';
import type { Channels } from '../../session/types';
import type { Hertz, Samples } from '../../base/units';
import type { SampleFormat } from './samples';

/** What a file's header tells of its audio. */
export interface AudioFacts {
  readonly format: SampleFormat;
  readonly channels: number;
  /** Where its channels' loudspeakers stand, a bit each; null where that is not told. */
  readonly mask: number | null;
  readonly sampleRate: Hertz;
  /** Null where the file does not tell. */
  readonly frames: Samples | null;
  /** When it begins, counted in frames since midnight; null where the file does not tell. */
  readonly begins: Samples | null;
  /** Where the audio begins in the file, in bytes. */
  readonly dataOffset: number;
  /** Null where samples stand in the file as they are. */
  readonly flac: FlacFacts | null;
}
/** What a FLAC file tells besides. */
export interface FlacFacts {
  readonly bits: number;
  /** MD5 of its samples, in hexadecimal digits; null where the file does not tell. */
  readonly md5: string | null;
  /** Its first block of metadata, for the decoder. */
  readonly streamInfo: Uint8Array;
}
export const frameBytes = ({ format, channels }: AudioFacts) => channels * format.bytes;

/** Chunks before the audio may be this large together; more is no audio file. */
export const MOST_HEADER_BYTES = 4 << 20;

/** What is wrong with a file that ends too early: as far as it goes, it can come in. */
export const cut = (message: string) => new Refusal('cut', message);
export const no = (message: string) => new Refusal('audio', message);
/** What tells of a file's audio comes behind it: it is looked for there, and the file read with it. */
export class FactsBehind extends Refusal {
  /**
   * @param form the first bytes of the file, as far as they tell its form
   * @param sound the chunk of the audio, up to its first sample
   * @param dataOffset where that chunk ends so far, in bytes
   * @param next where the chunk behind the audio begins, in bytes
   */
  constructor(
    readonly form: Uint8Array,
    readonly sound: Uint8Array,
    readonly dataOffset: number,
    readonly next: number,
  ) {
    super('audio', 'its audio comes before what tells of it');
  }
}
/** Most channels of a file that is split into strips. */
const MOST_CHANNELS = 64;
/** @throws Refusal `audio` for none, or for more channels than are taken apart */
export function checkChannels(channels: number): number {
  if (!(channels >= 1 && channels <= MOST_CHANNELS))
    throw no(`it is said to have ${channels} channels; files of 1 to ${MOST_CHANNELS} come in`);
  return channels;
}
/** @throws Refusal `audio` for a file that is more than one stem */
export function oneStem(channels: number): Channels {
  if (channels !== 1 && channels !== 2)
    throw no(`it has ${channels} channels; here mono and stereo files are taken: split it first`);
  return channels;
}
/** @throws Refusal `audio` for a rate that no recording has */
export function checkRate(rate: Hertz): Hertz {
  if (!(rate >= 8000 && rate <= 384000)) throw no(`its sample rate is said to be ${rate} Hz`);
  return rate;
}

/** The name of a chunk, which has to be of letters that can be read. */
export function chunkId(view: DataView, at: number): string {
  const id = ascii(view, at);
  if (!/^[\x20-\x7e]{4}$/.test(id))
    throw no(`there is no chunk at byte ${at}: a chunk before it lies about its size`);
  return id;
}
export const ascii = (view: DataView, at: number) =>
  String.fromCharCode(view.getUint8(at), view.getUint8(at + 1), view.getUint8(at + 2), view.getUint8(at + 3));
/** Where the next chunk stands, an even number of bytes on. @throws Refusal where it lies beyond what headers take */
export function afterChunk(at: number, id: string, size: number): number {
  const next = at + 8 + size + (size & 1);
  if (next > MOST_HEADER_BYTES)
    throw no(`its \`${id}\` chunk says ${size} bytes: it lies about its size, or this is no audio file`);
  return next;
}
