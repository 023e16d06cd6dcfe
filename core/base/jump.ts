import type { Hertz, Samples } from './units';

/** Frames in which a jump is over, and the least time that it takes. */
const JUMP_FRAMES = 120;
const JUMP_SECONDS = 0.001;

/** Frames in which a gain that a lane lets jump is there: 120, and a millisecond at least. */
export const jumpFrames = (sampleRate: Hertz): Samples =>
  Math.max(JUMP_FRAMES, Math.ceil(sampleRate * JUMP_SECONDS));

/**
 * Numbers that processors are told are decibels, or steeper: they take as long at every rate as 120 frames of 48 kHz do, for in a
 * millisecond a make-up of 36 dB would click.
 */
const NUMBER_SECONDS = 0.0025;

/** The same of a number that a processor is told. */
export const numberJumpFrames = (sampleRate: Hertz): Samples =>
  Math.max(JUMP_FRAMES, Math.ceil(sampleRate * NUMBER_SECONDS));
