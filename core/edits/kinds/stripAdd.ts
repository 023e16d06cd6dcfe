import { field, filled } from '../../session/fields/shape';
import { STRIP } from '../../session/fields/tables';
import { AT, type CommandKind } from '../kind';

export const fields = { strip: field({ kind: 'object', fields: STRIP }), at: AT } as const;

/** Adds a strip. */
export const stripAdd: CommandKind<'strip.add'> = {
  fields,
  removes: true,
  run(draft, { strip, at }) {
    draft.add(filled(STRIP, strip), at);
    return { type: 'strip.remove', id: strip.id };
  },
};
