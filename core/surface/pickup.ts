import type { Travel } from '../base/units';
import type { Pickup } from './desk/desk';

/** What a move of a control without a motor does. */
export interface Taken {
  /** Where the value goes to; null where it stays. */
  readonly to: Travel | null;
  /** Whether the control has hold of the value from now on. */
  readonly caught: boolean;
  /** Which way to go until it has; null where it has. */
  readonly go: 'up' | 'down' | null;
}

/** Values nearer than this are taken for the same: half a step of 14 bits, and the rounding of a level to a hundredth of a decibel. */
const SAME = 3 / 16383;

/**
 * What becomes of a value when a control that no motor moves goes from one place to another.
 *
 * - `jump`: the value goes there.
 * - `catch`: nothing moves until the control passes the value.
 * - `scale`: the value moves in proportion, so that both meet at the end of the way towards which the control goes.
 *
 * @param from where the control was heard last, 0..1; null where it was not heard yet
 * @param value where the value stands, 0..1
 * @param caught where the control left the value when it had hold of it; null where it has not
 */
export function pickedUp(
  pickup: Pickup,
  from: Travel | null,
  to: Travel,
  value: Travel,
  caught: Travel | null,
): Taken {
  const held = { to, caught: true, go: null };
  if (pickup === 'jump') return held;
  // Whatever else has moved the value meanwhile, it is not where the control left it.
  if (caught !== null && Math.abs(caught - value) <= SAME) return held;
  if (from !== null && (from - value) * (to - value) <= 0) return held;
  const go = to < value ? ('up' as const) : ('down' as const);
  if (pickup === 'catch' || from === null || from === to) return { to: null, caught: false, go };
  const up = to > from;
  const left = up ? 1 - from : from;
  const moved = left > 0 ? (Math.abs(to - from) / left) * (up ? 1 - value : value) : 0;
  return { to: up ? value + moved : value - moved, caught: false, go };
}
