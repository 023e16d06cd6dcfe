/** Frames that the engine computes at once. */
export const BLOCK = 128;
