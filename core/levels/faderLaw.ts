import type { Decibels, Travel } from '../base/units';

/** The loudest level a fader gives. */
export const FADER_TOP = 12;
/** The softest level above silence. */
export const FADER_FLOOR = -80;

/**
 * Travel against level: straight between these points, so that the upper half is spent on the twelve decibels either
 * side of 0 where mixing happens. Our own choice of points.
 */
const TRAVELS: readonly Travel[] = [0, 0.1, 0.3, 0.5, 0.75, 1];
const LEVELS: readonly number[] = [FADER_FLOOR, -40, -24, -12, 0, FADER_TOP];

/** What lies on the straight line between two of the points, read from one axis to the other. */
const between = (x: number, from: readonly number[], to: readonly number[], i: number): number =>
  to[i - 1]! + ((x - from[i - 1]!) / (from[i]! - from[i - 1]!)) * (to[i]! - to[i - 1]!);

/** The level at a point of the fader's travel; silence at the very bottom. */
export function levelAt(travel: Travel): Decibels {
  if (!(travel > 0)) return null;
  const t = Math.min(1, travel);
  let i = 1;
  while (t > TRAVELS[i]!) i++;
  return between(t, TRAVELS, LEVELS, i);
}

/** Where on its travel a fader stands for a level; inverse of `levelAt` within -80..+12 dB, clamped outside. */
export function travelOf(level: Decibels): Travel {
  if (level === null || level <= FADER_FLOOR) return 0;
  if (level >= FADER_TOP) return 1;
  let i = 1;
  while (level > LEVELS[i]!) i++;
  return between(level, LEVELS, TRAVELS, i);
}

/** Holds a level within the fader's range; what lies under the floor is silence. */
export const clampLevel = (level: Decibels): Decibels =>
  level === null || level < FADER_FLOOR ? null : Math.min(FADER_TOP, level);
