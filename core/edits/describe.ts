import { insertControls } from '../session/controls';
import { levelText } from '../levels/decibels';
import { panText } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { settingsChanged } from '../processors/text';
import { apply } from './apply';
import type { Command } from './commands';
import type { Fields } from '../session/fields/shape';
import { INSERT, SESSION, STRIP, VCA } from '../session/fields/tables';
import type { Lanes, Send, Session, Strip } from '../session/types';
import type { Id } from '../base/units';

/** One thing that an edit changes, in words. */
export interface Line {
  /** The strip, VCA or session that it is about. */
  readonly about: Id | null;
  readonly name: string;
  readonly text: string;
}

const TAP = { input: 'from the input', pre: 'pre-fader', post: 'post-fader' } as const;
const onOff = (on: boolean) => (on ? 'on' : 'off');
const LANE_NAMES: Readonly<Record<string, string>> = {
  fader: 'level',
  level: 'level',
  pan: 'pan',
  mute: 'mute',
  on: 'on and off',
  mix: 'mix',
};
/** What differs between the lanes of one thing. */
function lanesChanged(was: Lanes, now: Lanes, nameOf: (id: string) => string): readonly string[] {
  return [...new Set([...Object.keys(was), ...Object.keys(now)])].flatMap((id) => {
    const lane = now[id];
    if (was[id] === lane || JSON.stringify(was[id]) === JSON.stringify(lane)) return [];
    return [lane ? `automation of ${nameOf(id)}: ${lane.length} points` : `no automation of ${nameOf(id)}`];
  });
}
/** The sentences of a thing's fields that differ, in the order of their table. */
function fieldsChanged<T extends { readonly id: Id }>(
  fields: Fields,
  was: T,
  now: T,
  named: (id: Id | null) => string,
): readonly string[] {
  const same = (name: string) => {
    const [a, b] = [was[name as keyof T], now[name as keyof T]];
    return a === b || (typeof a === 'object' && JSON.stringify(a) === JSON.stringify(b));
  };
  return Object.entries(fields).flatMap(([name, f]) =>
    !f.words || same(name)
      ? []
      : (f.words(was[name as keyof T] as never, now[name as keyof T] as never, { id: now.id, named, same }) ??
        []),
  );
}
const plainLane = (id: string) => LANE_NAMES[id] ?? id;

const db = (level: number | null) => (level === null ? 'silence' : `${levelText(level)} dB`);

/**
 * What an edit changes, a line for each thing, told from the session before and after it: what is set to the value that
 * it has already is not told.
 * @throws Refusal when the edit breaks a rule
 */
export function describe(session: Session, commands: readonly Command[]): readonly Line[] {
  const after = apply(session, commands).session;
  const lines: Line[] = [];
  const named = (id: Id | null): string => {
    if (id === null) return 'nowhere';
    const found =
      after.strips.find((s) => s.id === id) ??
      session.strips.find((s) => s.id === id) ??
      after.vcas.find((v) => v.id === id) ??
      session.vcas.find((v) => v.id === id);
    return found?.name || id;
  };
  const say = (about: Id | null, text: string) =>
    lines.push({ about, name: about === null ? session.name : named(about), text });
  const sendText = (x: Send) =>
    `${TAP[x.tap]}, ${db(x.levelDb)}${x.pan ? `, ${panText(x.pan)}` : ''}${x.on ? '' : ', off'}`;

  for (const text of fieldsChanged(SESSION, { ...session, id: '' }, { ...after, id: '' }, named))
    say(null, text);
  if (session.monitor !== after.monitor)
    say(
      null,
      `${named(after.monitor ?? after.strips.find((s) => s.kind === 'output')?.id ?? null)} is heard`,
    );

  const old = new Map(session.strips.map((s) => [s.id, s]));
  const now = new Set(after.strips.map((s) => s.id));
  for (const s of session.strips) if (!now.has(s.id)) say(s.id, 'is removed');
  for (const s of after.strips) {
    const was = old.get(s.id);
    if (!was) {
      say(s.id, `new ${s.kind}${s.out.to === null ? '' : `, out to ${named(s.out.to)}`}`);
      for (const i of s.inserts) say(s.id, `${processorOf(i.type).name}, new`);
      for (const x of s.sends) say(s.id, `send to ${named(x.to)}, new: ${sendText(x)}`);
      continue;
    }
    if (was !== s) stripLines(was, s);
  }
  function stripLines(was: Strip, s: Strip) {
    const set = (text: string) => say(s.id, text);
    for (const text of fieldsChanged(STRIP, was, s, named)) set(text);
    for (const text of lanesChanged(was.lanes, s.lanes, plainLane)) set(text);
    if (was.out.to !== s.out.to) set(`out to ${named(s.out.to)}, was ${named(was.out.to)}`);
    if (was.out.on !== s.out.on) set(`dry path ${onOff(s.out.on)}`);
    for (const x of was.sends) if (!s.sends.some((y) => y.id === x.id)) set(`send to ${named(x.to)} removed`);
    for (const x of s.sends) {
      const before = was.sends.find((y) => y.id === x.id);
      if (!before) set(`send to ${named(x.to)}, new: ${sendText(x)}`);
      else if (before !== x) {
        for (const text of lanesChanged(before.lanes, x.lanes, plainLane))
          set(`send to ${named(x.to)}: ${text}`);
        const same = { lanes: x.lanes };
        if (JSON.stringify({ ...before, ...same }) !== JSON.stringify({ ...x, ...same }))
          set(`send to ${named(x.to)}: ${sendText(x)}; was ${sendText(before)}`);
      }
    }
    for (const i of was.inserts)
      if (!s.inserts.some((y) => y.id === i.id)) set(`${processorOf(i.type).name} removed`);
    for (const i of s.inserts) {
      const before = was.inserts.find((y) => y.id === i.id);
      const { name } = processorOf(i.type);
      if (!before) set(`${name}, new`);
      else if (before !== i) {
        for (const text of fieldsChanged(INSERT, before, i, named)) set(`${name} ${text}`);
        const controls = insertControls(i.type);
        const controlName = (id: string) =>
          LANE_NAMES[id] ?? (controls.find((c) => c.id === id)?.name ?? id).toLowerCase();
        for (const text of lanesChanged(before.lanes, i.lanes, controlName)) set(`${name}: ${text}`);
        const changed = settingsChanged(before, i);
        if (changed.length > 3) set(`${name}: ${changed.length} settings, such as ${changed[0]}`);
        else if (changed.length) set(`${name}: ${changed.join('; ')}`);
        else if (JSON.stringify(before.params) !== JSON.stringify(i.params))
          set(`${name}: settings written out that were left to their defaults`);
      }
    }
    const order = (x: Strip) => x.inserts.map((i) => i.id).filter((i) => both.has(i));
    const both = new Set(s.inserts.map((i) => i.id).filter((i) => was.inserts.some((x) => x.id === i)));
    if (order(was).join() !== order(s).join())
      set(`inserts in the order ${s.inserts.map((i) => processorOf(i.type).name).join(', ')}`);
  }
  const order = (s: Session) => s.strips.map((x) => x.id).filter((id) => now.has(id) && old.has(id));
  const [from, to] = [order(session), order(after)];
  const moved = to.filter((id, i) => from[i] !== id).length;
  if (moved) say(null, `${moved} strips stand elsewhere`);

  const vcas = new Map(session.vcas.map((v) => [v.id, v]));
  for (const v of session.vcas) if (!after.vcas.some((x) => x.id === v.id)) say(v.id, 'is removed');
  for (const v of after.vcas) {
    const was = vcas.get(v.id);
    if (!was) {
      say(v.id, `new VCA over ${v.members.length} strips`);
      continue;
    }
    if (was === v) continue;
    for (const text of fieldsChanged(VCA, was, v, named)) say(v.id, text);
    for (const text of lanesChanged(was.lanes, v.lanes, plainLane)) say(v.id, text);
    const out = was.members.filter((m) => !v.members.includes(m));
    const into = v.members.filter((m) => !was.members.includes(m));
    if (out.length) say(v.id, `lets go of ${out.map(named).join(', ')}`);
    if (into.length) say(v.id, `holds ${into.map(named).join(', ')}`);
  }
  for (const l of session.links)
    if (!after.links.some((x) => x.id === l.id)) say(null, `link “${l.name || l.id}” is dissolved`);
  for (const l of after.links) {
    const was = session.links.find((x) => x.id === l.id);
    const what = `link “${l.name || l.id}”`;
    if (!was) say(null, `${what} over ${l.members.length} strips, new`);
    else if (JSON.stringify(was) !== JSON.stringify(l))
      say(
        null,
        `${what}: ${l.on ? '' : 'off, '}${l.parts.join(', ') || 'nothing'} of ${l.members.length} strips${l.keeps ? ', differences kept' : ', all alike'}`,
      );
  }
  return lines;
}
