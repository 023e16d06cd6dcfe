import { iconFor } from '../naming/icons';
import { newInsert, newSend, newStrip } from '../session/defaults';
import { freshId, mainOutput, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command, SendPatch } from '../edits/commands';
import type { Send, Session, Tap } from '../session/types';
import type { Decibels, Id } from '../base/units';
import { positionFor, type Operation } from './gather';

/** The send of a strip to a destination, where it has one. */
export const sendTo = (session: Session, strip: Id, to: Id): Send | undefined =>
  stripOf(session, strip).sends.find((x) => x.to === to);

/** Level of a send that is made without one being said. */
export const NEW_SEND_DB = -12;

/**
 * Sets or makes the send of each strip to one destination. A strip is never sent to itself: it is passed over when
 * others are there.
 * @throws Refusal `cycle` when nothing but the destination itself was given
 */
export function setSends(
  session: Session,
  strips: readonly Id[],
  to: Id,
  patch: Partial<Pick<SendPatch, 'tap' | 'levelDb' | 'pan' | 'on'>>,
): readonly Command[] {
  const taken = new Set<Id>();
  const goal = stripOf(session, to);
  const others = strips.filter((id) => id !== to && stripOf(session, id).kind !== 'output');
  if (others.length === 0 && strips.length > 0)
    throw new Refusal(
      'cycle',
      `\`${goal.name || to}\` cannot be sent to itself, and outputs have no sends.`,
      [to],
    );
  return others.map((id) => {
    const known = sendTo(session, id, to);
    if (known) return { type: 'send.set', strip: id, id: known.id, patch };
    const send = newSend({
      id: freshId(session, `${id}-to-${to}`, taken),
      to,
      levelDb: NEW_SEND_DB,
      ...patch,
    });
    taken.add(send.id);
    return { type: 'send.add', strip: id, send, at: stripOf(session, id).sends.length };
  });
}

/** Takes away the sends of these strips to one destination. */
export const removeSends = (session: Session, strips: readonly Id[], to: Id): readonly Command[] =>
  strips.flatMap((id) =>
    stripOf(session, id)
      .sends.filter((x) => x.to === to)
      .map((x): Command => ({ type: 'send.remove', strip: id, id: x.id })),
  );

/**
 * Makes a return with its effect, fully wet, and sends the strips to it. The dry signal keeps its own path.
 */
export function newReturn(
  session: Session,
  picked: readonly Id[],
  options: {
    readonly name?: string;
    readonly effect?: string | null;
    readonly params?: Readonly<Record<string, number>>;
    readonly tap?: Tap;
    readonly levelDb?: Decibels;
  } = {},
): Operation {
  const names = new Set(session.strips.map((s) => s.name));
  let name = options.name ?? 'Plate';
  for (let n = 2; names.has(name); n++) name = `${options.name ?? 'Plate'} ${n}`;
  const made = freshId(session, name);
  const effect = options.effect === undefined ? 'reverb' : options.effect;
  const strip = newStrip({
    id: made,
    kind: 'return',
    name,
    family: 'Returns',
    colour: '#6fb3cf',
    icon: iconFor({ name, family: 'Returns', kind: 'return' }),
    inserts:
      effect === null
        ? []
        : [
            newInsert({
              id: freshId(session, `${made}-${effect}`, [made]),
              type: effect,
              params: options.params ?? {},
            }),
          ],
    out: { to: mainOutput(session)?.id ?? null, on: true },
  });
  const senders = picked.filter((id) => stripOf(session, id).kind !== 'output');
  const taken = new Set<Id>([made, ...strip.inserts.map((i) => i.id)]);
  return {
    made,
    label: `new return ${name}`,
    commands: [
      { type: 'strip.add', strip, at: positionFor(session, picked, 'end') },
      ...senders.map((id): Command => {
        const send = newSend({
          id: freshId(session, `${id}-to-${made}`, taken),
          to: made,
          tap: options.tap ?? 'post',
          levelDb: options.levelDb === undefined ? NEW_SEND_DB : options.levelDb,
        });
        taken.add(send.id);
        return { type: 'send.add', strip: id, send, at: stripOf(session, id).sends.length };
      }),
    ],
  };
}
