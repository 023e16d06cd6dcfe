import type { Id } from '../base/units';
import { freshId, nameOf } from '../session/lookup';
import type { Session } from '../session/types';
import type { Operation } from './gather';
import { Refusal } from '../base/refusal';

/**
 * Keeps strips and VCAs at an edge of the desk, or of one of its units while they are apart; where all are kept there already, no longer.
 * What is kept at the other edge goes over.
 * @throws Refusal `range` where none are given
 */
export function withPins(
  session: Session,
  ids: readonly Id[],
  side: 'left' | 'right',
  unit: Id | null = null,
): Operation {
  if (ids.length === 0)
    throw new Refusal('range', 'Nothing is picked: pick the strips that are to be pinned first.');
  const here = (id: Id) => session.pins.some((p) => p.strip === id && p.side === side && p.unit === unit);
  const off = ids.every(here);
  const rest = session.pins.filter((p) => !(ids.includes(p.strip) && p.unit === unit));
  const pins = off ? rest : [...rest, ...ids.map((strip) => ({ strip, side, unit }))];
  const one = ids.length === 1 ? nameOf(session, ids[0]!) : `${ids.length} strips`;
  return {
    made: ids[0]!,
    label: off ? `unpin ${one}` : `pin ${one} to the ${side}`,
    commands: [{ type: 'session.set', patch: { pins } }],
  };
}

/** Keeps strips and VCAs, in this order, as a layout of the desk; one of that name is replaced. */
export function keepLayout(session: Session, name: string, order: readonly Id[]): Operation {
  if (order.length === 0)
    throw new Refusal('range', 'Nothing is picked: pick the strips of the layout first, in their order.');
  const known = session.layouts.find((l) => l.name === name);
  const id = known?.id ?? freshId(session, `layout ${name}`);
  const layout = { id, name, order };
  return {
    made: id,
    label: `layout ${name}`,
    commands: [
      {
        type: 'session.set',
        patch: {
          layouts: known
            ? session.layouts.map((l) => (l === known ? layout : l))
            : [...session.layouts, layout],
        },
      },
    ],
  };
}

/** A layout is taken away. */
export const dropLayout = (session: Session, id: Id): Operation => ({
  made: id,
  label: `layout ${session.layouts.find((l) => l.id === id)?.name ?? id} taken away`,
  commands: [{ type: 'session.set', patch: { layouts: session.layouts.filter((l) => l.id !== id) } }],
});

/**
 * Takes an arrangement of the desk as a whole: pins of the joined desk, and an order that comes up first. One step, taken back in one.
 * @param order left out where the order stays as it is
 */
export function arrange(
  session: Session,
  name: string,
  left: readonly Id[],
  right: readonly Id[],
  order: readonly Id[] | null,
): Operation {
  const apart = session.pins.filter((p) => p.unit !== null);
  const pins = [
    ...apart,
    ...left.map((strip) => ({ strip, side: 'left' as const, unit: null })),
    ...right.map((strip) => ({ strip, side: 'right' as const, unit: null })),
  ];
  const known = session.layouts.find((l) => l.name === name);
  const id = known?.id ?? freshId(session, `layout ${name}`);
  const layouts = order && [{ id, name, order }, ...session.layouts.filter((l) => l !== known)];
  return {
    made: id,
    label: 'desk by use',
    commands: [{ type: 'session.set', patch: { pins, ...(layouts ? { layouts } : {}) } }],
  };
}
