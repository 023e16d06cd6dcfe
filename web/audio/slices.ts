export type { FetchSlices, KeptSlice, Slice } from '@core/formats/audio/slices';

/** Frames of a slice that is played: what is fetched of a stem at once. Slices begin at multiples of it. */
export const SLICE_FRAMES = 16384;

/** Stems that the server does not have, or has no more. */
export class StemsGone extends Error {
  constructor(
    message: string,
    readonly stems: readonly string[],
  ) {
    super(message);
  }
}
