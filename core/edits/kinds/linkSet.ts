import { breaksRules, field } from '../../session/fields/shape';
import { LINK } from '../../session/fields/tables';
import { before } from '../draft';
import { ID, type CommandKind } from '../kind';

export const fields = { id: ID, patch: field({ kind: 'patch', of: LINK }) } as const;

/** Sets fields of a link. */
export const linkSet: CommandKind<'link.set'> = {
  fields,
  run(draft, c) {
    const link = draft.link(c.id);
    draft.changeLink(link, c.patch);
    return { ...c, patch: before(link, c.patch) };
  },
  ruled: ({ patch }) => breaksRules(LINK, patch),
};
