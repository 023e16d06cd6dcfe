import { breaksRules, field } from '../../session/fields/shape';
import { SESSION } from '../../session/fields/tables';
import type { CommandKind } from '../kind';

export const fields = { patch: field({ kind: 'patch', of: SESSION }) } as const;

/** Sets fields of the session itself. */
export const sessionSet: CommandKind<'session.set'> = {
  fields,
  run: (draft, { type, patch }) => ({ type, patch: draft.set(patch) }),
  ruled: ({ patch }) => breaksRules(SESSION, patch),
};
