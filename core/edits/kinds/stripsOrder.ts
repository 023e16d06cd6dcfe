import { LIMITS } from '../../base/limits';
import { field } from '../../session/fields/shape';
import type { CommandKind } from '../kind';

export const fields = { order: field({ kind: 'list', of: { kind: 'id' }, most: LIMITS.strips }) } as const;

/** Puts the strips into another order. */
export const stripsOrder: CommandKind<'strips.order'> = {
  fields,
  run: (draft, { type, order }) => ({ type, order: draft.reorder(order) }),
  ruled: () => false,
};
