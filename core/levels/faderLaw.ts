import type { Decibels, Travel } from '../session/units';

/** The loudest level a fader gives. */
export const FADER_TOP = 12;
/** The softest level above silence. */
export const FADER_FLOOR = -80;

/**
 * Travel against level: straight between these points, so that the upper half is spent on the twelve decibels either
 * side of 0 where mixing happens. Our own choice of points.
 */
const POINTS: readonly (readonly [Travel, number])[] = [
  [0, FADER_FLOOR],
  [0.1, -40],
  [0.3, -24],
  [0.5, -12],
  [0.75, 0],
  [1, FADER_TOP],
];

/** The level at a point of the fader's travel; silence at the very bottom. */
export function levelAt(travel: Travel): Decibels {
  if (!(travel > 0)) return null;
  const t = Math.min(1, travel);
  for (let i = 1; i < POINTS.length; i++) {
    const [t0, d0] = POINTS[i - 1]!;
    const [t1, d1] = POINTS[i]!;
    if (t <= t1) return d0 + ((t - t0) / (t1 - t0)) * (d1 - d0);
  }
  return FADER_TOP;
}

/** Where on its travel a fader stands for a level; inverse of `levelAt` within -80..+12 dB, clamped outside. */
export function travelOf(level: Decibels): Travel {
  if (level === null || level <= FADER_FLOOR) return 0;
  for (let i = 1; i < POINTS.length; i++) {
    const [t0, d0] = POINTS[i - 1]!;
    const [t1, d1] = POINTS[i]!;
    if (level <= d1) return t0 + ((level - d0) / (d1 - d0)) * (t1 - t0);
  }
  return 1;
}

/** Holds a level within the fader's range; what lies under the floor is silence. */
export const clampLevel = (level: Decibels): Decibels =>
  level === null || level < FADER_FLOOR ? null : Math.min(FADER_TOP, level);
