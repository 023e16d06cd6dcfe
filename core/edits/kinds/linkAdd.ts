import { field, filled } from '../../session/fields/shape';
import { LINK } from '../../session/fields/tables';
import { AT, type CommandKind } from '../kind';

export const fields = { link: field({ kind: 'object', fields: LINK }), at: AT } as const;

/** Adds a link. */
export const linkAdd: CommandKind<'link.add'> = {
  fields,
  run(draft, { link, at }) {
    draft.addLink(filled(LINK, link), at);
    return { type: 'link.remove', id: link.id };
  },
};
