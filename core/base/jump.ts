import type { Hertz, Samples } from './units';

/** Frames in which a jump is over, and the least time that it takes. */
const JUMP_FRAMES = 120;
const JUMP_SECONDS = 0.001;

/** Frames in which what a lane lets jump is over: 120, and a millisecond at least. */
export const jumpFrames = (sampleRate: Hertz): Samples =>
  Math.max(JUMP_FRAMES, Math.ceil(sampleRate * JUMP_SECONDS));
