import { breaksRules, field } from '../../session/fields/shape';
import { STRIP } from '../../session/fields/tables';
import { before } from '../draft';
import { ID, type CommandKind } from '../kind';

export const fields = { id: ID, patch: field({ kind: 'patch', of: STRIP }) } as const;

/** Sets fields of a strip. */
export const stripSet: CommandKind<'strip.set'> = {
  fields,
  run: (draft, { type, id, patch }) => ({ type, id, patch: before(draft.change(id, patch), patch) }),
  ruled: ({ patch }) => breaksRules(STRIP, patch),
  strip: ({ id }) => id,
};
