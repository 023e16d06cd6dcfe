/** How much a column of the Sheet says: everything; what fits in the width of a word; what can be told from across the room. */
export type ZoomStep = 'far' | 'middle' | 'near';

/** Pixels of a column, from two hundred in a small window to everything at ease. */
export const FARTHEST = 5;
export const NEAREST = 160;
const AT_FIRST = 50;
/** Narrower columns say less. */
const MIDDLE_FROM = 15;
const NEAR_FROM = 34;

export const stepOf = (pixels: number): ZoomStep =>
  pixels < MIDDLE_FROM ? 'far' : pixels < NEAR_FROM ? 'middle' : 'near';

/** As wide as a column may be; what is no number is as wide as at first. */
export const bounded = (pixels: number): number =>
  Number.isFinite(pixels) ? Math.max(FARTHEST, Math.min(NEAREST, pixels)) : AT_FIRST;

/** The width of columns by which so many just fit. */
export const fitting = (columns: number, room: number): number =>
  bounded(columns > 0 ? Math.floor((room / columns) * 20) / 20 : NEAREST);

/**
 * Where a zone has to stand so that what is under the pointer stays there.
 * @param left pixels that are scrolled away now
 * @param at pixels from the zone's left edge to the pointer
 * @param factor by which columns became wider
 */
export const scrolledAfter = (left: number, at: number, factor: number): number =>
  Math.max(0, (left + at) * factor - at);

/** Turns of a wheel, or a pinch of a touchpad, as a factor. */
export const wheelFactor = (deltaY: number): number =>
  Math.exp(-Math.max(-120, Math.min(120, deltaY)) * 0.0025);

/** A slider's travel 0..1 as a width, each part of it the same factor. */
export const widthAtTravel = (t: number): number => FARTHEST * (NEAREST / FARTHEST) ** t;
export const travelOfWidth = (pixels: number): number =>
  Math.log(pixels / FARTHEST) / Math.log(NEAREST / FARTHEST);
