import { heldBy } from '@core/groups/vca';
import type { Session } from '@core/session/types';
import type { Id } from '@core/base/units';
import type { RailMark } from './rows/kind';

/** For each strip, in the order of the columns, the mark of every VCA's rail. */
export function railMarks(session: Session, order: readonly Id[]): ReadonlyMap<Id, readonly RailMark[]> {
  const marks = new Map<Id, RailMark[]>(order.map((id) => [id, []]));
  for (const vca of session.vcas) {
    const held = new Set(heldBy(session, vca.id).map((s) => s.id));
    const at = order.map((id, i) => (held.has(id) ? i : -1)).filter((i) => i >= 0);
    order.forEach((id, i) => {
      const inside = at.length > 1 && i >= at[0]! && i <= at.at(-1)!;
      marks
        .get(id)!
        .push(vca.members.includes(id) ? 'knot' : held.has(id) ? 'via' : inside ? 'line' : 'none');
    });
  }
  return marks;
}
