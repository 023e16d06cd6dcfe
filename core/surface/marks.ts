import { findControl, refKey, type ControlRef } from '../automation/control';
import { isArmed } from '../session/mode';
import type { AutomationMode } from '../session/types';
import type { Faded } from './faded';
import type { DeskContext } from './state';

/** How a light shines. */
export type Lit = 'off' | 'dim' | 'on' | 'blink';

/** What automation does with a control: nothing, moves it, would write it, writes it now. */
export type Mark = 'none' | 'off' | 'read' | 'armed' | 'writing';

/** What automation does with one control. */
export function markOf(context: DeskContext, ref: ControlRef | null): Mark {
  if (!ref) return 'none';
  const key = refKey(ref);
  if (context.writing.some((w) => refKey(w) === key)) return 'writing';
  const placed = findControl(context.session, ref);
  if (!placed) return 'none';
  if (isArmed(placed.mode)) return 'armed';
  if (!placed.lane) return 'none';
  return placed.mode === 'off' ? 'off' : 'read';
}
/** What automation does with a strip or VCA as a whole. */
export const stripMark = (context: DeskContext, f: Faded): Mark =>
  context.writing.some((w) => w.owner === f.id)
    ? 'writing'
    : isArmed(f.automation)
      ? 'armed'
      : f.automation === 'read'
        ? 'read'
        : 'off';

/** Steady for read, steady and brighter for armed, blinking for writing. */
export const markLit = (mark: Mark): Lit =>
  mark === 'writing' ? 'blink' : mark === 'armed' ? 'on' : mark === 'read' ? 'dim' : 'off';

const MODE_WORDS: Readonly<Record<AutomationMode, string>> = {
  off: 'OFF',
  read: 'READ',
  touch: 'TCH',
  latch: 'LTCH',
  trim: 'TRIM',
  write: 'WRIT',
};
const WRITES: Readonly<Record<AutomationMode, string>> = {
  off: '*',
  read: '*',
  touch: '*TCH',
  latch: '*LTC',
  trim: '*TRM',
  write: '*WRT',
};
/** A strip's mode in at most four letters; with a star while it is written. */
export const modeWord = (context: DeskContext, f: Faded): string =>
  (stripMark(context, f) === 'writing' ? WRITES : MODE_WORDS)[f.automation];
/** What automation does with an encoder's control, in at most four letters. */
export const markWord = (mark: Mark): string =>
  ({ none: '', off: 'off', read: 'auto', armed: 'ARM', writing: '*WRT' })[mark];
