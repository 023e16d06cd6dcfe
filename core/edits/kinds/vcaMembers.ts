import { field } from '../../session/fields/shape';
import { VCA } from '../../session/fields/tables';
import { ID, type CommandKind } from '../kind';

export const fields = { id: ID, members: field(VCA.members.shape) } as const;

/** Says what a VCA holds. */
export const vcaMembers: CommandKind<'vca.members'> = {
  fields,
  run(draft, c) {
    const vca = draft.vca(c.id);
    draft.changeVca(vca, { members: c.members });
    return { ...c, members: vca.members };
  },
};
