import { AUTOMATION_MODES } from './fields/tables';
import type { AutomationMode } from './types';

export const MODE_TEXTS: Readonly<Record<AutomationMode, string>> = {
  off: 'Off: lanes are left alone, controls stand where they were put',
  read: 'Read: controls follow their lanes',
  touch: 'Touch: what a hand holds is written until it lets go, then it glides back',
  latch: 'Latch: what a hand has moved is written until playing stops',
  trim: 'Trim: what a hand moves is added to the lane while it holds on',
  write: 'Write: all lanes of the strip are written anew while it plays',
};

/** Whether lanes are followed. */
export const follows = (mode: AutomationMode): boolean => mode !== 'off';
/** Whether a hand's moves are written while playing. */
export const isArmed = (mode: AutomationMode): boolean => mode !== 'off' && mode !== 'read';

/**
 * The mode that a step leads to. While the transport rolls, steps pass write by: one step too many would write over a
 * take. (Common practice, no published source.)
 */
export function nextMode(mode: AutomationMode, rolling: boolean, way: 1 | -1 = 1): AutomationMode {
  const order = AUTOMATION_MODES.filter((m) => !rolling || m !== 'write' || m === mode);
  return order[(order.indexOf(mode) + way + order.length) % order.length]!;
}
