import { effectiveLevel, vcaOffset } from '../groups/vca';
import { readLevel } from '../levels/decibels';
import { clampLevel, FADER_TOP } from '../levels/faderLaw';
import { readPan } from '../levels/pan';
import { reach } from '../session/graph';
import type { Command } from '../edits/commands';
import { newSend } from '../session/defaults';
import { freshId, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Send, Session, Tap } from '../session/types';
import type { Decibels, Id, Pan } from '../base/units';
import { NEW_SEND_DB } from './returns';
import { stepLevel } from './strips';

/** What one action does to the sends of many strips, to one or several destinations. */
export interface SendsRequest {
  readonly action: 'add' | 'change' | 'remove';
  readonly to: readonly Id[];
  /** What is set; what is left out stays, or has its default in a new send. */
  readonly tap?: Tap;
  readonly levelDb?: Decibels;
  /** Moves levels by so many decibels, their differences kept, instead of setting them. */
  readonly by?: number;
  readonly pan?: Pan;
  readonly on?: boolean;
  /** A send that is pre-fader takes the strip's level and pan over, so that it starts from the balance as it is. */
  readonly copyFader?: boolean;
  /** Switches the strips' dry paths off in the same step. */
  readonly dryOff?: boolean;
}

/** Destinations that a strip can be sent to without feeding itself: submixes, returns and outputs. */
export function destinations(session: Session, strips: readonly Id[]): readonly Id[] {
  const before = reach(session, strips, 'upstream');
  return session.strips
    .filter((s) => s.kind !== 'source' && !strips.includes(s.id) && !before.has(s.id))
    .map((s) => s.id);
}

/** Destinations to which at least one of the strips really is sent. */
export const fedDestinations = (session: Session, strips: readonly Id[]): readonly Id[] => {
  const fed = new Set(strips.flatMap((id) => stripOf(session, id).sends.map((x) => x.to)));
  return session.strips.filter((s) => fed.has(s.id)).map((s) => s.id);
};

/** Strips that can be sent to all of these without feeding themselves: all but outputs and what these lead to. */
export function senders(session: Session, to: readonly Id[]): readonly Id[] {
  const after = reach(session, to, 'downstream');
  return session.strips
    .filter((s) => s.kind !== 'output' && !to.includes(s.id) && !after.has(s.id))
    .map((s) => s.id);
}
/** Strips of which at least one send goes to one of these. */
export const sendersNow = (session: Session, to: readonly Id[]): readonly Id[] =>
  session.strips.filter((s) => s.sends.some((x) => to.includes(x.to))).map((s) => s.id);

/** Level and pan of a send that takes the strip's balance over. */
const balanceOf = (session: Session, id: Id): Pick<Send, 'levelDb' | 'pan'> => {
  const strip = stripOf(session, id);
  const level = effectiveLevel(session, strip);
  return { levelDb: level === null ? null : clampLevel(level), pan: strip.pan };
};

/**
 * Adds, changes or removes sends of many strips. Adding sets the sends that are there already; changing and removing pass
 * over strips that have none.
 * @throws Refusal `range` when nothing is picked or no destination is chosen
 */
export function bulkSends(session: Session, strips: readonly Id[], r: SendsRequest): readonly Command[] {
  const senders = strips.filter((id) => stripOf(session, id).kind !== 'output');
  if (senders.length === 0)
    throw new Refusal('range', 'Nothing is picked that can be sent: outputs have no sends.');
  if (r.to.length === 0)
    throw new Refusal('range', 'No destination is chosen: choose where the strips are sent to.');
  const commands: Command[] = [];
  const taken = new Set<Id>();
  for (const id of senders) {
    const strip = stripOf(session, id);
    let added = 0;
    for (const to of r.to) {
      if (to === id) continue;
      const known = strip.sends.filter((x) => x.to === to);
      if (r.action === 'remove') {
        for (const x of known) commands.push({ type: 'send.remove', strip: id, id: x.id });
        continue;
      }
      const set = (x: Send): Partial<Send> => {
        const tap = r.tap ?? x.tap;
        const levelDb =
          r.by !== undefined ? stepLevel(x.levelDb, r.by) : r.levelDb !== undefined ? r.levelDb : x.levelDb;
        return {
          tap,
          levelDb,
          pan: r.pan ?? x.pan,
          on: r.on ?? x.on,
          ...(r.copyFader && tap !== 'post' ? balanceOf(session, id) : {}),
        };
      };
      for (const x of known) {
        const next = set(x);
        const patch = Object.fromEntries(
          Object.entries(next).filter(([k, v]) => x[k as keyof Send] !== v),
        ) as Partial<Send>;
        if (Object.keys(patch).length) commands.push({ type: 'send.set', strip: id, id: x.id, patch });
      }
      if (known.length || r.action === 'change') continue;
      const made = newSend({ id: freshId(session, `${id}-to-${to}`, taken), to, levelDb: NEW_SEND_DB });
      taken.add(made.id);
      commands.push({
        type: 'send.add',
        strip: id,
        at: strip.sends.length + added++,
        send: { ...made, ...set(made) },
      });
    }
    if (r.dryOff && strip.out.on) commands.push({ type: 'strip.out', id, out: { ...strip.out, on: false } });
  }
  return commands;
}

/** Changes taps; a send that becomes pre-fader (or input) takes the strip's level and pan over where that is wanted. */
export const setTap = (
  session: Session,
  strips: readonly Id[],
  to: Id,
  tap: Tap,
  copyFader: boolean,
): readonly Command[] =>
  strips.flatMap((id) =>
    stripOf(session, id)
      .sends.filter((x) => x.to === to && x.tap !== tap)
      .map((x): Command => ({
        type: 'send.set',
        strip: id,
        id: x.id,
        patch: { tap, ...(copyFader && x.tap === 'post' ? balanceOf(session, id) : {}) },
      })),
  );

/** Gives the faders the level and pan of the strips' sends to a destination: what VCAs add is taken off. */
export const faderFromSend = (session: Session, strips: readonly Id[], to: Id): readonly Command[] =>
  strips.flatMap((id) => {
    const send = stripOf(session, id).sends.find((x) => x.to === to);
    if (!send) return [];
    const offset = vcaOffset(session, id) ?? 0;
    const faderDb = send.levelDb === null ? null : clampLevel(send.levelDb - offset);
    return [{ type: 'strip.set', id, patch: { faderDb, pan: send.pan } } as const];
  });

/**
 * Reads what was typed into the cell of a send: a level, a tap, a pan, on or off, in any order, such as `-12 pre L30`.
 * @throws Refusal `range` saying what can be typed
 */
export function readSend(text: string): Partial<Pick<Send, 'levelDb' | 'tap' | 'pan' | 'on'>> {
  const patch: { levelDb?: Decibels; tap?: Tap; pan?: Pan; on?: boolean } = {};
  const rest = text
    .trim()
    .replace(/\s*db\b/i, '')
    .split(/\s+/)
    .filter(Boolean);
  const no = () =>
    new Refusal(
      'range',
      `“${text}” is no send. Type a level up to ${FADER_TOP}, and where wanted post, pre or input, a pan such as L30, on or off: -12 pre L30.`,
    );
  if (rest.length === 0) throw no();
  for (const word of rest) {
    const w = word.toLowerCase();
    const level = w === 'off' ? undefined : readLevel(word);
    if (w === 'on' || w === 'off') patch.on = w === 'on';
    else if (w === 'post' || w === 'pre' || w === 'input') patch.tap = w;
    else if (level !== undefined) {
      if (level !== null && level > FADER_TOP) throw no();
      patch.levelDb = level;
    } else if (/^([lr]\d+|c)$/.test(w)) patch.pan = readPan(word)!;
    else throw no();
  }
  return patch;
}
