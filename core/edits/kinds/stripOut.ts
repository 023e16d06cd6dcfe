import { field } from '../../session/fields/shape';
import { OUT } from '../../session/fields/tables';
import { ID, type CommandKind } from '../kind';

export const fields = { id: ID, out: field({ kind: 'object', fields: OUT }) } as const;

/** Leads a strip's dry path elsewhere, or switches it. */
export const stripOut: CommandKind<'strip.out'> = {
  fields,
  run: (draft, { type, id, out }) => ({ type, id, out: draft.change(id, { out }).out }),
};
