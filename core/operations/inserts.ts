import { processorOf } from '../processors/registry';
import { newInsert } from '../session/defaults';
import { freshId, nameOf, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Insert, Place, Session, Strip } from '../session/types';
import type { Id } from '../base/units';

/** A place in a strip's chain: before the insert that stands there now, counted within its side of the fader. */
export interface ChainPlace {
  readonly strip: Id;
  readonly place: Place;
  readonly at: number;
}

/** @throws Refusal `unknown` when the strip has no such insert */
export function insertOf(session: Session, strip: Id, id: Id): Insert {
  const found = stripOf(session, strip).inserts.find((i) => i.id === id);
  if (!found)
    throw new Refusal('unknown', `There is no insert \`${id}\` in \`${nameOf(session, strip)}\`.`, [
      strip,
      id,
    ]);
  return found;
}

/** Index in the whole list of a place counted on one side of the fader. */
function indexOf(inserts: readonly Insert[], place: Place, at: number): number {
  const side = inserts.flatMap((i, n) => (i.place === place ? [n] : []));
  if (at < side.length) return side[at]!;
  if (side.length) return side.at(-1)! + 1;
  return place === 'pre' ? 0 : inserts.length;
}

const fits = (session: Session, strip: Strip, type: string) => {
  const processor = processorOf(type);
  if (strip.channels === 1 && processor.channels === 'stereo')
    throw new Refusal(
      'kind',
      `The ${processor.name} needs two channels, and \`${nameOf(session, strip.id)}\` is mono.`,
      [strip.id],
    );
};

/** A new insert at the end of one side of the fader, on each strip; an effect on a strip that is no return is part wet. */
export function addInserts(
  session: Session,
  strips: readonly Id[],
  type: string,
  place: Place,
  settings: Partial<Pick<Insert, 'params' | 'mix'>> = {},
): readonly Command[] {
  const taken = new Set<Id>();
  const processor = processorOf(type);
  return strips.map((id): Command => {
    const strip = stripOf(session, id);
    fits(session, strip, type);
    const insert = newInsert({
      id: freshId(session, `${id}-${type}`, taken),
      type,
      place,
      mix: processor.ambient && strip.kind !== 'return' ? 0.3 : 1,
      ...settings,
    });
    taken.add(insert.id);
    return { type: 'insert.add', strip: id, insert, at: indexOf(strip.inserts, place, Infinity) };
  });
}

/**
 * Moves an insert to another place of its chain, to the other side of the fader, or to another strip; or puts a copy there.
 * @returns the commands, and the id that the insert bears at its new place
 * @throws Refusal `kind` where it does not fit, `cycle` (on apply) where its key would hear itself
 */
export function placeInsert(
  session: Session,
  from: { readonly strip: Id; readonly id: Id },
  to: ChainPlace,
  copy = false,
): { readonly commands: readonly Command[]; readonly id: Id } {
  const insert = insertOf(session, from.strip, from.id);
  const goal = stripOf(session, to.strip);
  fits(session, goal, insert.type);
  const same = from.strip === to.strip;
  const id =
    copy || (!same && goal.inserts.some((i) => i.id === from.id))
      ? freshId(session, `${to.strip}-${insert.type}`)
      : from.id;
  // A processor that this very strip keyed hears its own signal there.
  const key = insert.key === to.strip ? null : insert.key;
  const moved: Insert = { ...insert, id, place: to.place, key };
  const rest = same && !copy ? goal.inserts.filter((i) => i !== insert) : goal.inserts;
  const before =
    same && !copy && insert.place === to.place
      ? goal.inserts.filter((i) => i.place === to.place).indexOf(insert) < to.at
      : false;
  const at = indexOf(rest, to.place, before ? to.at - 1 : to.at);
  const add: Command = { type: 'insert.add', strip: to.strip, insert: moved, at };
  if (copy) return { commands: [add], id };
  if (same && moved.place === insert.place && goal.inserts.indexOf(insert) === at)
    return { commands: [], id };
  return { commands: [{ type: 'insert.remove', strip: from.strip, id: from.id }, add], id };
}

/** One insert of one strip. */
export interface InsertRef {
  readonly strip: Id;
  readonly id: Id;
}

/** The inserts that are switched on: of these strips, and of one kind where it is said. */
export const activeInserts = (
  session: Session,
  strips: readonly Id[] | null,
  type: string | null = null,
): readonly InsertRef[] =>
  session.strips
    .filter((s) => strips === null || strips.includes(s.id))
    .flatMap((s) =>
      s.inserts
        .filter((i) => i.on && (type === null || i.type === type))
        .map((i) => ({ strip: s.id, id: i.id })),
    );

/** Switches inserts on or off; those that are gone meanwhile are passed over. */
export const switchInserts = (
  session: Session,
  inserts: readonly InsertRef[],
  on: boolean,
): readonly Command[] =>
  inserts.flatMap(({ strip, id }): Command[] => {
    const found = session.strips.find((s) => s.id === strip)?.inserts.find((i) => i.id === id);
    return found && found.on !== on ? [{ type: 'insert.set', strip, id, patch: { on } }] : [];
  });

/** All parameters, the mix and the key of an insert at their defaults. */
export function resetInsert(session: Session, { strip, id }: InsertRef): readonly Command[] {
  insertOf(session, strip, id);
  return [{ type: 'insert.set', strip, id, patch: { params: {}, mix: 1, key: null } }];
}

/** A strip's input, level and pan at their defaults, without inserts and sends; name, colour and out stay. */
export const resetStrips = (session: Session, strips: readonly Id[]): readonly Command[] =>
  strips.flatMap((id): Command[] => {
    const s = stripOf(session, id);
    return [
      {
        type: 'strip.set',
        id,
        patch: { trimDb: 0, invert: false, swap: false, width: 1, faderDb: 0, pan: 0 },
      },
      ...s.inserts.map((i): Command => ({ type: 'insert.remove', strip: id, id: i.id })),
      ...s.sends.map((x): Command => ({ type: 'send.remove', strip: id, id: x.id })),
    ];
  });
