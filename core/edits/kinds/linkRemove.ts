import { ID, type CommandKind } from '../kind';

export const fields = { id: ID } as const;

/** Removes a link. */
export const linkRemove: CommandKind<'link.remove'> = {
  fields,
  removes: true,
  run(draft, { id }) {
    const link = draft.link(id);
    return { type: 'link.add', link, at: draft.removeLink(link) };
  },
};
