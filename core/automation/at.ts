import type { Insert, Lane, Lanes, Send, Session, Strip, Vca } from '../session/types';
import type { Pan, Seconds, Decibels } from '../base/units';
import {
  FADER,
  insertControl,
  MUTE,
  PAN,
  SEND_LEVEL,
  SEND_ON,
  type Control,
  type ControlValue,
} from '../session/controls';
import { laneValue, type Side } from './lane';
import { follows } from '../session/mode';

/** A time at which lanes are asked for values. */
export interface When {
  readonly time: Seconds;
  readonly side: Side;
}

const some = (o: object) => {
  for (const _ in o) return true;
  return false;
};
const automated = new WeakMap<Strip, boolean>();

/** Whether a strip follows any lane: its own, or one of its sends and inserts. */
export function isAutomated(strip: Strip): boolean {
  if (!follows(strip.automation)) return false;
  let known = automated.get(strip);
  if (known === undefined) {
    known =
      some(strip.lanes) || strip.sends.some((x) => some(x.lanes)) || strip.inserts.some((i) => some(i.lanes));
    automated.set(strip, known);
  }
  return known;
}
export const vcaAutomated = (vca: Vca): boolean => follows(vca.automation) && some(vca.lanes);

const at = (control: Control, lane: Lane, when: When): ControlValue =>
  laneValue(control, lane, when.time, when.side);

/** The values that a strip's or VCA's own lanes move. */
interface Own {
  readonly faderDb: Decibels;
  readonly pan: Pan;
  readonly mute: boolean;
}
/** A strip's own level, pan and mute at a time; those that were put where no time is given. */
export function ownAt(strip: Strip, when: When | null): Own {
  if (!when || !follows(strip.automation)) return strip;
  const { fader, mute, pan } = strip.lanes;
  return {
    faderDb: fader ? at(FADER, fader, when) : strip.faderDb,
    pan: pan ? (at(PAN, pan, when) ?? 0) : strip.pan,
    mute: mute ? at(MUTE, mute, when) === 1 : strip.mute,
  };
}
/** A strip with its own level, pan and mute at a time; its sends and inserts are left alone. */
const stripOwnAt = (strip: Strip, when: When): Strip => ({ ...strip, ...ownAt(strip, when) });

export function vcaAt(vca: Vca, when: When | null): Vca {
  if (!when || !vcaAutomated(vca)) return vca;
  const { fader, mute } = vca.lanes;
  return {
    ...vca,
    faderDb: fader ? at(FADER, fader, when) : vca.faderDb,
    mute: mute ? at(MUTE, mute, when) === 1 : vca.mute,
  };
}

/** A send's level, pan and switch at a time. */
export function sendValuesAt(
  strip: Strip,
  send: Send,
  when: When | null,
): Pick<Send, 'levelDb' | 'pan' | 'on'> {
  if (!when || !follows(strip.automation)) return send;
  const { level, pan, on } = send.lanes;
  return {
    levelDb: level ? at(SEND_LEVEL, level, when) : send.levelDb,
    pan: pan ? (at(PAN, pan, when) ?? 0) : send.pan,
    on: on ? at(SEND_ON, on, when) === 1 : send.on,
  };
}
const sendAt = (strip: Strip, send: Send, when: When): Send =>
  some(send.lanes) ? { ...send, ...sendValuesAt(strip, send, when) } : send;

export function insertAt(strip: Strip, insert: Insert, when: When | null): Insert {
  if (!when || !follows(strip.automation) || !some(insert.lanes)) return insert;
  const params: Record<string, number> = { ...insert.params };
  let { on, mix } = insert;
  for (const id in insert.lanes) {
    const control = insertControl(insert.type, id);
    if (!control) continue;
    const value = at(control, insert.lanes[id]!, when) ?? 0;
    if (id === 'on') on = value === 1;
    else if (id === 'mix') mix = value;
    else params[id] = value;
  }
  return { ...insert, on, mix, params };
}

const asked = new WeakMap<Strip, { readonly when: When; readonly strip: Strip }>();
/**
 * A strip with its controls where its lanes have them at a time; the strip itself where none moves it. What was asked last is
 * remembered, so that while one strip moves the others stay the same objects.
 */
export function stripAt(strip: Strip, when: When): Strip {
  if (!isAutomated(strip)) return strip;
  const known = asked.get(strip);
  if (known?.when.time === when.time && known.when.side === when.side) return known.strip;
  const there = {
    ...stripOwnAt(strip, when),
    sends: strip.sends.map((x) => sendAt(strip, x, when)),
    inserts: strip.inserts.map((i) => insertAt(strip, i, when)),
  };
  asked.set(strip, { when, strip: there });
  return there;
}

/** The session with all controls where their lanes have them at a time; the session itself where nothing is automated. */
export function sessionAt(session: Session, time: Seconds): Session {
  const when: When = { time, side: 'after' };
  const strips = session.strips.some(isAutomated)
    ? session.strips.map((s) => stripAt(s, when))
    : session.strips;
  const vcas = session.vcas.some(vcaAutomated) ? session.vcas.map((v) => vcaAt(v, when)) : session.vcas;
  return strips === session.strips && vcas === session.vcas ? session : { ...session, strips, vcas };
}

const still = <T extends { readonly lanes: Lanes }>(x: T): T => ({ ...x, lanes: {} });
/** The session as it stands at a time, with no lanes any more: what questions about levels and paths are asked of. */
export function standingAt(session: Session, time: Seconds): Session {
  const now = sessionAt(session, time);
  if (now === session) return session;
  return {
    ...now,
    strips: now.strips.map((s) =>
      isAutomated(s) ? { ...still(s), sends: s.sends.map(still), inserts: s.inserts.map(still) } : s,
    ),
    vcas: now.vcas.map((v) => (vcaAutomated(v) ? still(v) : v)),
  };
}
