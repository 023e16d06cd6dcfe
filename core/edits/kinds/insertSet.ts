import { breaksRules, field } from '../../session/fields/shape';
import { INSERT } from '../../session/fields/tables';
import { before } from '../draft';
import { ID, type CommandKind } from '../kind';

export const fields = { strip: ID, id: ID, patch: field({ kind: 'patch', of: INSERT }) } as const;

/** Sets fields of an insert. */
export const insertSet: CommandKind<'insert.set'> = {
  fields,
  run(draft, c) {
    const insert = draft.insert(c.strip, c.id);
    draft.changeInsert(c.strip, insert, c.patch);
    return { ...c, patch: before(insert, c.patch) };
  },
  ruled: ({ patch }) => breaksRules(INSERT, patch),
  strip: ({ strip }) => strip,
};
