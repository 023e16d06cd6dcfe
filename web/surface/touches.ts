import type { DeskState } from '@core/surface/state';
import type { Use } from '@core/surface/use/uses';

/** Touches that are remembered. */
const MOST = 4000;

/** What hands were laid on since the session was opened: it goes nowhere else. */
export class Touches {
  uses: readonly Use[] = [];

  /** Notes whom hands have taken hold of between two states. */
  note(before: DeskState, after: DeskState): void {
    if (before.units === after.units) return;
    for (const [unit, u] of Object.entries(after.units)) {
      const was = before.units[unit]?.grips;
      if (was === u.grips) continue;
      for (const [control, grip] of Object.entries(u.grips))
        if (grip.owner && !was?.[control])
          this.uses = [...this.uses, { strip: grip.owner, at: Date.now() }].slice(-MOST);
    }
  }
  clear(): void {
    this.uses = [];
  }
}
