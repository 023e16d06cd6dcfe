import { bankKeys } from './bank';
import { deskKeys } from './desk';
import { encoderKeys } from './encoders';
import { mute, solo } from './flags';
import type { KeyRole } from './key';
import { mode, modeKeys, trimKey } from './modes';
import { modifiers } from './modifiers';
import { pick } from './pick';
import { reachKeys } from './reach';
import { transportKeys } from './transport';

/** Everything that a key can do. */
export const keyRoles: readonly KeyRole[] = [
  pick,
  mute,
  solo,
  mode,
  ...modifiers,
  ...modeKeys,
  trimKey,
  ...bankKeys,
  ...reachKeys,
  ...encoderKeys,
  ...transportKeys,
  ...deskKeys,
];
const byId = new Map(keyRoles.map((r) => [r.id, r]));
export const keyRole = (id: string): KeyRole | undefined => byId.get(id);
