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

/**
 * How far one thing has given way to another, 0..1, at the share t of the way: t^5 (126 - 420 t + 540 t^2 - 315 t^3 + 70 t^4), flat
 * at both ends four times over, so that hardly anything of it is heard.
 */
export const bow = (t: number): number => t ** 5 * (126 + t * (-420 + t * (540 + t * (-315 + 70 * t))));
