/**
 * Units as named types, so that a signature says what a number means.
 */

/** A level in decibels; gain = 10^(dB/20). `null` is silence (minus infinity). */
export type Decibels = number | null;
/** A linear amplitude factor; 1 leaves the signal as it is. */
export type Gain = number;
/** A position in the stereo field, -1 (left) .. +1 (right). */
export type Pan = number;
/** A span or a point of time in seconds. */
export type Seconds = number;
/** A span or a point of time in sample frames at the session's rate. */
export type Samples = number;
/** A frequency in hertz. */
export type Hertz = number;
/** A position on a fader's travel, 0 (bottom, silence) .. 1 (top). */
export type Travel = number;
/** A colour as `#rrggbb`. */
export type Colour = string;
export type Id = string;
