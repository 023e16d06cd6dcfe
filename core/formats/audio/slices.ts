import { depthBytes, DEPTHS, type Depth } from './samples';
import type { Channels } from '../../session/types';
import type { Samples } from '../../base/units';

/**
 * Slices of many stems in one stream of bytes: before each a head of sixteen, little-endian: its number in what was asked for,
 * its frames (32 bits each), its depth and channels (8 bits each; the depth by its number in DEPTHS, 255 where the stem is not
 * there, 254 where it cannot be read now), two bytes that are 0, and how many bytes of samples follow. Those are interleaved, as they are kept, and filled up with
 * zeros to a multiple of four.
 */
export type Lack = 'gone' | 'away';
export interface SliceHead {
  readonly number: number;
  readonly frames: Samples;
  /** Or why there are no samples: the stem is not there, or cannot be read now. */
  readonly depth: Depth | Lack;
  readonly channels: Channels;
  readonly bytes: number;
}
export const SLICE_HEAD_BYTES = 16;
const LACKS: Record<number, Lack> = { 255: 'gone', 254: 'away' };
export const isLack = (depth: Depth | Lack): depth is Lack => depth === 'gone' || depth === 'away';
/** Bytes that fill up a slice's samples. */
export const slicePad = (bytes: number) => -bytes & 3;

export function sliceHead(number: number, depth: Depth | Lack, channels: Channels, frames: Samples) {
  const head = new Uint8Array(SLICE_HEAD_BYTES);
  const view = new DataView(head.buffer);
  view.setUint32(0, number, true);
  view.setUint32(4, frames, true);
  view.setUint8(8, isLack(depth) ? (depth === 'gone' ? 255 : 254) : DEPTHS.indexOf(depth));
  view.setUint8(9, channels);
  view.setUint32(12, isLack(depth) ? 0 : frames * channels * depthBytes(depth), true);
  return head;
}
function readHead(view: DataView, at: number): SliceHead {
  return {
    number: view.getUint32(at, true),
    frames: view.getUint32(at + 4, true),
    depth: DEPTHS[view.getUint8(at + 8)] ?? LACKS[view.getUint8(at + 8)] ?? 'gone',
    channels: view.getUint8(at + 9) as Channels,
    bytes: view.getUint32(at + 12, true),
  };
}

/** Reads slices from pieces of any size, and gives each as soon as it is whole. */
export class SliceStream {
  private held = new Uint8Array(1 << 16);
  private filled = 0;

  /** @param take gets a slice's bytes, which are its own to keep only as long as it runs */
  constructor(private readonly take: (head: SliceHead, samples: Uint8Array) => void) {}

  push(piece: Uint8Array): void {
    if (this.filled + piece.length > this.held.length) {
      const more = new Uint8Array(Math.max(this.held.length * 2, this.filled + piece.length));
      more.set(this.held.subarray(0, this.filled));
      this.held = more;
    }
    this.held.set(piece, this.filled);
    this.filled += piece.length;
    const view = new DataView(this.held.buffer);
    let at = 0;
    while (this.filled - at >= SLICE_HEAD_BYTES) {
      const head = readHead(view, at);
      const from = at + SLICE_HEAD_BYTES;
      if (from + head.bytes + slicePad(head.bytes) > this.filled) break;
      this.take(head, this.held.subarray(from, from + head.bytes));
      at = from + head.bytes + slicePad(head.bytes);
    }
    this.held.copyWithin(0, at, this.filled);
    this.filled -= at;
  }
  /** @throws Error where a slice was cut off */
  end(): void {
    if (this.filled > 0) throw new Error('The answer was cut off in a slice.');
  }
}

/** A part of a stem. */
export interface Slice {
  readonly stem: string;
  readonly start: Samples;
  readonly frames: Samples;
}
/** A slice as it is kept: samples of a depth, interleaved. */
export interface KeptSlice {
  readonly depth: Depth;
  readonly channels: Channels;
  readonly bytes: Uint8Array;
}

/**
 * Fetches slices of stems, and gives each by its number as it comes, as far as the stem reaches. Its bytes, from a multiple of four
 * on, are those of the stream again when `take` returns.
 */
export type FetchSlices = (
  slices: readonly Slice[],
  take: (number: number, slice: KeptSlice) => void,
  signal: AbortSignal,
) => Promise<void>;
