/** Seconds that have to go by before it is said how long the rest takes. */
const TOO_SOON = 2;

/**
 * How long work goes on, by how fast it went so far.
 * @param share of the work that is done, 0..1
 * @param seconds it has taken
 * @returns seconds; null where that cannot be told yet
 */
export function secondsLeft(share: number, seconds: number): number | null {
  if (seconds < TOO_SOON || share <= 0.005) return null;
  return Math.max(0, (seconds / share) * (1 - share));
}
