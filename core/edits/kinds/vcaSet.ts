import { breaksRules, field } from '../../session/fields/shape';
import { VCA } from '../../session/fields/tables';
import { before } from '../draft';
import { ID, type CommandKind } from '../kind';

export const fields = { id: ID, patch: field({ kind: 'patch', of: VCA }) } as const;

/** Sets fields of a VCA. */
export const vcaSet: CommandKind<'vca.set'> = {
  fields,
  run(draft, c) {
    const vca = draft.vca(c.id);
    draft.changeVca(vca, c.patch);
    return { ...c, patch: before(vca, c.patch) };
  },
  ruled: ({ patch }) => breaksRules(VCA, patch),
};
