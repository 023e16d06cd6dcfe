import type { Samples } from '../../base/units';

/** What a frame's header tells. */
export interface FlacFrameHeader {
  /** Bytes that the header takes. */
  readonly size: number;
  readonly samples: Samples;
  /** Whether blocks are of one size: then `number` counts frames, and samples otherwise. */
  readonly fixed: boolean;
  readonly number: number;
  readonly channels: number;
  /** Null where it is as the file's metadata say. */
  readonly bits: number | null;
}

/** Bits of a sample by code: RFC 9639, 9.1.4. Code 3 is kept for the future. */
const BITS = [null, 8, 12, undefined, 16, 20, 24, 32] as const;
/** Blocks of samples by code: RFC 9639, 9.1.1. Codes 6 and 7 stand for 8 and 16 bits at the end of the header. */
function blockSize(code: number): Samples {
  if (code === 1) return 192;
  return code < 6 ? 144 << code : 1 << code;
}
/** More bytes than a header takes. */
const HEADER_BYTES = 17;

/** Remainders of division by a polynomial, for each byte: RFC 9639, 9.1.8 and 9.3. */
const remainders = (bits: 8 | 16, polynomial: number) =>
  Uint16Array.from({ length: 256 }, (_, byte) => {
    let rest = byte << (bits - 8);
    for (let bit = 0; bit < 8; bit++)
      rest = (rest << 1) ^ ((rest >> (bits - 1)) & 1 ? (1 << bits) | polynomial : 0);
    return rest;
  });
const CRC8 = remainders(8, 0x07);
const CRC16 = remainders(16, 0x8005);

/**
 * Reads the header of a frame: RFC 9639, 9.1.
 * @returns null where there is none, undefined where what has come does not reach to its end
 */
export function readFrameHeader(bytes: Uint8Array, at: number): FlacFrameHeader | null | undefined {
  const there = bytes.length - at;
  if ((there > 0 && bytes[at] !== 0xff) || (there > 1 && (bytes[at + 1]! & 0xfe) !== 0xf8)) return null;
  if (there < 6) return undefined;
  const sizes = bytes[at + 2]! >> 4;
  const rates = bytes[at + 2]! & 15;
  const assignment = bytes[at + 3]! >> 4;
  const bits = BITS[(bytes[at + 3]! >> 1) & 7];
  if (sizes === 0 || rates === 15 || assignment > 10 || bits === undefined || bytes[at + 3]! & 1) return null;
  // Its number is written as UTF-8 writes one, of up to 36 bits: 9.1.5.
  const first = bytes[at + 4]!;
  const more = first < 0x80 ? 0 : Math.clz32(~(first << 24)) - 1;
  if (first >= 0x80 && (more === 0 || more > 6)) return null;
  const size = 6 + more + (sizes === 6 ? 1 : sizes === 7 ? 2 : 0) + (rates === 12 ? 1 : rates > 12 ? 2 : 0);
  if (there < size) return undefined;
  let number = first < 0x80 ? first : first & (0x3f >> more);
  let end = at + 5;
  for (; end < at + 5 + more; end++) {
    if (bytes[end]! >> 6 !== 2) return null;
    number = number * 64 + (bytes[end]! & 0x3f);
  }
  let samples = blockSize(sizes);
  if (sizes === 6) samples = bytes[end]! + 1;
  else if (sizes === 7) samples = bytes[end]! * 256 + bytes[end + 1]! + 1;
  let rest = 0;
  for (let i = at; i < at + size; i++) rest = CRC8[rest ^ bytes[i]!]!;
  if (rest !== 0) return null;
  const channels = assignment < 8 ? assignment + 1 : 2;
  return { size, samples, fixed: (bytes[at + 1]! & 1) === 0, number, channels, bits };
}

/** A whole frame, whose sum holds. */
export interface FlacFrame {
  readonly data: Uint8Array;
  readonly samples: Samples;
}

/**
 * Finds the frames in a stream of bytes. One ends where its CRC-16 holds and what follows is the header of the one that comes
 * next, or nothing, or what players of music write behind a file.
 */
export class FlacFrameFinder {
  /** Whether what comes next is missing or damaged: nothing behind it is given. */
  broken = false;
  /** Whether what comes is no audio any more. */
  private behind = false;
  private held: Uint8Array = new Uint8Array(0);
  private header: FlacFrameHeader | null = null;
  /** The first header, which tells how blocks are counted. */
  private first: FlacFrameHeader | null = null;
  /** Samples of the frames that were given. */
  private samples: Samples = 0;
  /** How far it was looked for the end of the frame, and the remainder up to there. */
  private at = 0;
  private rest = 0;

  /** @param facts what the file's metadata tell */
  constructor(private readonly facts: { readonly channels: number; readonly bits: number }) {}

  /** @returns the frames that are whole by now */
  push(piece: Uint8Array): FlacFrame[] {
    return this.find(piece, false);
  }
  /** @returns what is left, when the file has ended */
  end(): FlacFrame[] {
    return this.find(new Uint8Array(0), true);
  }

  private find(piece: Uint8Array, ended: boolean): FlacFrame[] {
    const found: FlacFrame[] = [];
    if (this.broken || this.behind) return found;
    const bytes = new Uint8Array(this.held.length + piece.length);
    bytes.set(this.held);
    bytes.set(piece, this.held.length);
    let from = 0;
    while (from < bytes.length) {
      if (!this.header) {
        const header = readFrameHeader(bytes, from);
        if (header === undefined && !ended) break;
        if (!header || !this.follows(header, this.samples)) {
          this.broken = true;
          break;
        }
        this.first ??= header;
        this.header = header;
        this.at = this.rest = 0;
      }
      const end = this.endOf(bytes, from, ended);
      if (end === null) {
        this.broken = ended || this.at > this.most();
        break;
      }
      const { samples } = this.header;
      found.push({ data: bytes.slice(from, end), samples });
      this.samples += samples;
      this.header = null;
      from = end;
      this.behind = this.isTag(bytes, from);
      if (this.behind) break;
    }
    this.held = this.broken || this.behind ? new Uint8Array(0) : bytes.slice(from);
    return found;
  }

  /** @returns where the frame ends that begins at `from`, or null where that is not told by what has come */
  private endOf(bytes: Uint8Array, from: number, ended: boolean): number | null {
    const next = this.samples + this.header!.samples;
    let { at, rest } = this;
    try {
      // A header that may not be whole is not looked at yet.
      const until = bytes.length - from - (ended ? 0 : HEADER_BYTES);
      while (at < until) {
        rest = ((rest << 8) & 0xffff) ^ CRC16[(rest >> 8) ^ bytes[from + at++]!]!;
        if (rest !== 0 || at <= this.header!.size) continue;
        const end = from + at;
        if (ended && end === bytes.length) return end;
        const header = readFrameHeader(bytes, end);
        if (header && this.follows(header, next)) return end;
        if (this.isTag(bytes, end)) return end;
      }
      return null;
    } finally {
      this.at = at;
      this.rest = rest;
    }
  }
  /** Whether a header is the one that comes after so many samples. Frames count themselves. */
  private follows(header: FlacFrameHeader, samples: Samples): boolean {
    const { channels, bits } = this.facts;
    const { fixed, samples: block } = this.first ?? header;
    return (
      header.fixed === fixed &&
      header.number * (fixed ? block : 1) === samples &&
      header.channels === channels &&
      (header.bits === null || header.bits === bits)
    );
  }
  /** Whether what follows is known to be no audio: what players of music write behind a file. */
  private isTag(bytes: Uint8Array, at: number): boolean {
    const id = String.fromCharCode(...bytes.subarray(at, at + 3));
    return id === 'TAG' || id === 'APE';
  }
  /** More bytes than a frame takes, were it written without any skill. */
  private most(): number {
    return 4096 + this.header!.samples * this.facts.channels * ((this.facts.bits + 8) / 4);
  }
}
