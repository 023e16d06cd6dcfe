import type { Decibels } from '@core/base/units';

/** Milliseconds for which a level is held. */
const HELD = 1000;

/** The highest level of the last second, so that it can be read. */
export class HeldLevel {
  level: Decibels = null;
  private at = -Infinity;

  /** @param levels of the channels, at a time in milliseconds */
  push(levels: readonly Decibels[], now: number): void {
    const highest = levels.reduce((a, b) => (b !== null && (a === null || b > a) ? b : a), null);
    if ((highest ?? -Infinity) <= (this.level ?? -Infinity) && now - this.at <= HELD) return;
    this.level = highest;
    this.at = now;
  }
}
