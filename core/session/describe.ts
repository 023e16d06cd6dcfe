import { insertControls } from '../automation/control';
import { levelText } from '../levels/decibels';
import { panText } from '../levels/pan';
import { processorOf } from '../processors/registry';
import { settingsChanged } from '../processors/text';
import { apply } from './commands/apply';
import type { Command } from './commands/types';
import type { Lanes, Send, Session, Strip } from './types';
import type { Id } from './units';

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

  if (session.name !== after.name) say(null, `is called “${after.name}”`);
  if (session.panLaw !== after.panLaw) say(null, `pan law ${after.panLaw} dB`);
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
    if (was.name !== s.name) set(`renamed from “${was.name || was.id}”`);
    if (was.family !== s.family) set(`family ${s.family || 'none'}, was ${was.family || 'none'}`);
    else if (was.colour !== s.colour) set('another colour');
    if (was.trimDb !== s.trimDb) set(`trim ${db(s.trimDb)}, was ${db(was.trimDb)}`);
    if (was.faderDb !== s.faderDb) set(`level ${db(s.faderDb)}, was ${db(was.faderDb)}`);
    if (was.pan !== s.pan) set(`pan ${panText(s.pan)}, was ${panText(was.pan)}`);
    if (was.width !== s.width) set(`width ${Math.round(s.width * 100)} %`);
    if (was.invert !== s.invert) set(s.invert ? 'polarity inverted' : 'polarity as it is');
    if (was.swap !== s.swap) set(s.swap ? 'sides swapped' : 'sides as they are');
    if (was.mute !== s.mute) set(s.mute ? 'muted' : 'unmuted');
    if (was.solo !== s.solo) set(s.solo ? 'soloed' : 'solo off');
    if (was.soloSafe !== s.soloSafe) set(s.soloSafe ? 'solo-safe' : 'no longer solo-safe');
    if (was.hidden !== s.hidden) set(s.hidden ? 'hidden' : 'shown');
    if (JSON.stringify(was.preamp) !== JSON.stringify(s.preamp))
      set(
        s.preamp
          ? `preamplifier input ${s.preamp.input}, ${s.preamp.gainDb} dB${s.preamp.pad ? ', pad' : ''}${s.preamp.phantom ? ', phantom power' : ''}${s.preamp.lowCut ? ', low cut' : ''}${s.preamp.invert ? ', inverted' : ''}`
          : 'no preamplifier',
      );
    if (was.pair !== s.pair && s.pair !== null) set(`leaves by ${s.pair}–${s.pair + 1}`);
    if (was.automation !== s.automation) set(`automation ${s.automation}, was ${was.automation}`);
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
        if (before.on !== i.on) set(`${name} ${i.on ? 'on' : 'bypassed'}`);
        if (before.mix !== i.mix)
          set(`${name} ${Math.round(i.mix * 100)} % wet, was ${Math.round(before.mix * 100)} %`);
        if (before.place !== i.place) set(`${name} ${i.place === 'pre' ? 'before' : 'after'} the fader`);
        if (before.key !== i.key) set(`${name} keyed by ${i.key === null ? 'its own signal' : named(i.key)}`);
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
    if (was.name !== v.name) say(v.id, `renamed from “${was.name || was.id}”`);
    if (was.faderDb !== v.faderDb) say(v.id, `level ${db(v.faderDb)}, was ${db(was.faderDb)}`);
    if (was.mute !== v.mute) say(v.id, v.mute ? 'muted' : 'unmuted');
    if (was.solo !== v.solo) say(v.id, v.solo ? 'soloed' : 'solo off');
    if (was.automation !== v.automation) say(v.id, `automation ${v.automation}, was ${was.automation}`);
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
