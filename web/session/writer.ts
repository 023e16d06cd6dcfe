import type { ControlRef } from '@core/automation/control';
import type { Command } from '@core/edits/commands';
import type { Lane } from '@core/session/types';

/** What writes automation: it takes out of an edit what is to be written, not put. */
export interface AutomationWriter {
  /**
   * @param phase `live` while a hand is on it, `land` when it lets go, `once` for an edit that comes and goes
   * @returns the rest of the edit
   */
  take(
    phase: 'live' | 'land' | 'once',
    drag: string,
    label: string,
    commands: readonly Command[],
  ): readonly Command[];
  /** A hand lets go without having meant it. */
  drop(drag: string): void;
}
/** A lane that is being written, as it is heard. */
export interface WrittenLane {
  readonly ref: ControlRef;
  readonly lane: Lane;
}
