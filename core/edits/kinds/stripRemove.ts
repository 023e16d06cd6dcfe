import { ID, type CommandKind } from '../kind';

export const fields = { id: ID } as const;

/** Removes a strip. */
export const stripRemove: CommandKind<'strip.remove'> = {
  fields,
  removes: true,
  run: (draft, { id }) => ({ type: 'strip.add', ...draft.remove(id) }),
};
