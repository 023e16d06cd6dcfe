/*
 * Units as types of their own, so that a signature says what a number means and the compiler refuses one unit where another is
 * asked. A bare number fits any of them, and arithmetic gives one: what is checked is what has been given a unit, when it is
 * handed on.
 */

/** Only the compiler knows of it: no number has such a property. */
declare const unit: unique symbol;
type In<U extends string> = number & { readonly [unit]?: U };

/** A level in decibels; gain = 10^(dB/20). `null` is silence (minus infinity). */
export type Decibels = In<'decibels'> | null;
/** A linear amplitude factor; 1 leaves the signal as it is. */
export type Gain = In<'gain'>;
/** A position in the stereo field, -1 (left) .. +1 (right). */
export type Pan = In<'pan'>;
/** A span or a point of time in seconds. */
export type Seconds = In<'seconds'>;
/** A span or a point of time in sample frames at the session's rate. */
export type Samples = In<'samples'>;
/** A frequency in hertz. */
export type Hertz = In<'hertz'>;
/** A position on a fader's travel, 0 (bottom, silence) .. 1 (top). */
export type Travel = In<'travel'>;
/** A colour as `#rrggbb`. */
export type Colour = string;
export type Id = string;
/** How many signals stand side by side: one, or left and right. */
export type Channels = 1 | 2;
