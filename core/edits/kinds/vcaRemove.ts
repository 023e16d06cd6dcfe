import { ID, type CommandKind } from '../kind';

export const fields = { id: ID } as const;

/** Removes a VCA. */
export const vcaRemove: CommandKind<'vca.remove'> = {
  fields,
  removes: true,
  run(draft, { id }) {
    const vca = draft.vca(id);
    return { type: 'vca.add', vca, at: draft.removeVca(vca) };
  },
};
