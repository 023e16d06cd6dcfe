import { ID, type CommandKind } from '../kind';

export const fields = { strip: ID, id: ID } as const;

/** Removes an insert from a strip. */
export const insertRemove: CommandKind<'insert.remove'> = {
  fields,
  removes: true,
  run(draft, { strip, id }) {
    const insert = draft.insert(strip, id);
    return { type: 'insert.add', strip, insert, at: draft.removeInsert(strip, insert) };
  },
  strip: ({ strip }) => strip,
};
