import { field, filled } from '../../session/fields/shape';
import { VCA } from '../../session/fields/tables';
import { AT, type CommandKind } from '../kind';

export const fields = { vca: field({ kind: 'object', fields: VCA }), at: AT } as const;

/** Adds a VCA. */
export const vcaAdd: CommandKind<'vca.add'> = {
  fields,
  run(draft, { vca, at }) {
    draft.addVca(filled(VCA, vca), at);
    return { type: 'vca.remove', id: vca.id };
  },
};
