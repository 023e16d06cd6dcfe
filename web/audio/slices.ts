import type { Depth } from '@core/formats/audio/samples';
import type { Channels } from '@core/session/types';

/** Frames of a slice that is played: what is fetched of a stem at once. Slices begin at multiples of it. */
export const SLICE_FRAMES = 16384;

/** A part of a stem. */
export interface Slice {
  readonly stem: string;
  readonly start: number;
  readonly frames: number;
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

/** Stems that the server does not have, or has no more. */
export class StemsGone extends Error {
  constructor(
    message: string,
    readonly stems: readonly string[],
  ) {
    super(message);
  }
}
