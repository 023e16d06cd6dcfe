import { field, filled } from '../../session/fields/shape';
import { INSERT } from '../../session/fields/tables';
import { AT, ID, type CommandKind } from '../kind';

export const fields = { strip: ID, insert: field({ kind: 'object', fields: INSERT }), at: AT } as const;

/** Adds an insert to a strip. */
export const insertAdd: CommandKind<'insert.add'> = {
  fields,
  run(draft, { strip, insert, at }) {
    draft.addInsert(strip, filled(INSERT, insert), at);
    return { type: 'insert.remove', strip, id: insert.id };
  },
  strip: ({ strip }) => strip,
};
