import { levelSpoken, levelText, readLevel } from '../levels/decibels';
import { clampLevel, FADER_FLOOR, FADER_TOP, levelAt, travelOf } from '../levels/faderLaw';
import { panText, readPan } from '../levels/pan';
import { valueOf, type Parameter } from '../processors/description';
import { onStep, travelAt, valueAtTravel } from '../processors/law';
import { processorOf } from '../processors/registry';
import { parameterName, parameterText, readParameter } from '../processors/text';
import type { Command } from '../session/commands/types';
import { nameOf, stripMap } from '../session/lookup';
import type { AutomationMode, Insert, Lane, Lanes, Send, Session, Strip, Vca } from '../session/types';
import type { Decibels, Id, Travel } from '../session/units';

/** Something that automation can move: how its value lies on its travel, and how it is written. */
export interface Control {
  readonly id: string;
  readonly name: string;
  /** Whether it goes from one value to the next without any between. */
  readonly stepped: boolean;
  /** What a trim adds to: its decibels, or its travel. */
  readonly adds: 'decibels' | 'travel';
  readonly default: number;
  /** The least and the greatest of its values; silence lies below. */
  readonly min: number;
  readonly max: number;
  travelOf(value: Decibels): Travel;
  valueAt(travel: Travel): Decibels;
  text(value: Decibels): string;
  /** @returns undefined where the text is no value of it */
  read(text: string): Decibels | undefined;
}

const level = (id: string, name: string): Control => ({
  id,
  name,
  stepped: false,
  adds: 'decibels',
  default: 0,
  min: FADER_FLOOR,
  max: FADER_TOP,
  travelOf,
  valueAt: levelAt,
  text: (v) => `${levelText(v)} dB`,
  read: (t) => {
    const v = readLevel(t);
    return v === undefined || (v !== null && v > FADER_TOP) ? undefined : clampLevel(v);
  },
});
const pan: Control = {
  id: 'pan',
  name: 'Pan',
  stepped: false,
  adds: 'travel',
  default: 0,
  min: -1,
  max: 1,
  travelOf: (v) => ((v ?? 0) + 1) / 2,
  valueAt: (t) => Math.max(-1, Math.min(1, 2 * t - 1)),
  text: (v) => panText(v ?? 0),
  read: readPan,
};
const toggle = (id: string, name: string, off: string, on: string, usual: 0 | 1): Control => ({
  id,
  name,
  stepped: true,
  adds: 'travel',
  default: usual,
  min: 0,
  max: 1,
  travelOf: (v) => v ?? 0,
  valueAt: (t) => (t >= 0.5 ? 1 : 0),
  text: (v) => (v ? on : off),
  read: (t) => {
    const plain = t.trim().toLowerCase();
    if (plain === '1' || plain === on.toLowerCase()) return 1;
    return plain === '0' || plain === off.toLowerCase() ? 0 : undefined;
  },
});
const mix: Control = {
  id: 'mix',
  name: 'Mix',
  stepped: false,
  adds: 'travel',
  default: 1,
  min: 0,
  max: 1,
  travelOf: (v) => v ?? 0,
  valueAt: (t) => Math.max(0, Math.min(1, t)),
  text: (v) => `${Math.round((v ?? 0) * 100)} %`,
  read: (t) => {
    const n = Number(t.replace(',', '.').replace(/\s*%$/, ''));
    return t.trim() === '' || !(n >= 0 && n <= 100) ? undefined : n / 100;
  },
};

export const FADER = level('fader', 'Level');
export const PAN = pan;
export const MUTE = toggle('mute', 'Mute', 'open', 'muted', 0);
export const SEND_LEVEL = level('level', 'Send level');
export const SEND_ON = toggle('on', 'Send on', 'off', 'on', 1);
const STRIP: readonly Control[] = [FADER, PAN, MUTE];
const VCA = STRIP.filter((c) => c !== pan);
const SEND: readonly Control[] = [SEND_LEVEL, PAN, SEND_ON];
const INSERT: readonly Control[] = [toggle('on', 'On', 'bypassed', 'on', 1), mix];

/** A processor's parameter as a control. */
const parameterControl = (p: Parameter, all: readonly Parameter[]): Control => ({
  id: p.id,
  name: parameterName(p, all),
  stepped: p.choices !== undefined,
  adds: p.unit === 'dB' ? 'decibels' : 'travel',
  default: p.default,
  min: p.min,
  max: p.max,
  travelOf: (v) => travelAt(p, v ?? p.min),
  valueAt: (t) => {
    const v = valueAtTravel(p, t);
    return p.choices ? onStep(p, v) : Math.max(p.min, Math.min(p.max, Number(v.toPrecision(9))));
  },
  text: (v) => parameterText(p, v ?? p.min),
  read: (t) => readParameter(p, t),
});

const controls = new Map<string, ReadonlyMap<string, Control>>();
/** What automation can move in a processor of a kind, by id. A parameter that its latency depends on stays where it was put. */
function insertControlMap(type: string): ReadonlyMap<string, Control> {
  let known = controls.get(type);
  if (!known) {
    const processor = processorOf(type);
    const list = [
      ...(processor.mixes ? INSERT : INSERT.filter((c) => c !== mix)),
      ...processor.parameters.filter((p) => !p.latent).map((p) => parameterControl(p, processor.parameters)),
    ];
    known = new Map(list.map((c) => [c.id, c]));
    controls.set(type, known);
  }
  return known;
}
export const insertControls = (type: string): readonly Control[] => [...insertControlMap(type).values()];
/** One of them; undefined where it has no such control. */
export const insertControl = (type: string, id: string): Control | undefined =>
  insertControlMap(type).get(id);

/** Names one control of a session: of a strip, of one of its sends or inserts, or of a VCA. */
export interface ControlRef {
  readonly part: 'strip' | 'send' | 'insert' | 'vca';
  /** The strip, or the VCA. */
  readonly owner: Id;
  /** The send or the insert; null for a control of the owner itself. */
  readonly id: Id | null;
  readonly control: string;
}

export const refKey = (r: ControlRef): string => `${r.part} ${r.owner} ${r.id ?? ''} ${r.control}`;

/** A control where it stands: its description, its value as it was put, and its lane. */
export interface PlacedControl {
  readonly ref: ControlRef;
  readonly control: Control;
  readonly mode: AutomationMode;
  readonly value: Decibels;
  readonly lane: Lane | null;
  /** The lanes of what it belongs to. */
  readonly lanes: Lanes;
}

const number = (on: boolean) => (on ? 1 : 0);
const stripValue = (s: Strip | Vca, control: string): Decibels =>
  control === 'fader' ? s.faderDb : control === 'mute' ? number(s.mute) : (s as Strip).pan;
const sendValue = (x: Send, control: string): Decibels =>
  control === 'level' ? x.levelDb : control === 'on' ? number(x.on) : x.pan;
const insertValue = (i: Insert, control: string): Decibels => {
  if (control === 'on') return number(i.on);
  if (control === 'mix') return i.mix;
  const p = processorOf(i.type).parameters.find((x) => x.id === control)!;
  return valueOf(p, i.params);
};

const place = (
  ref: ControlRef,
  control: Control,
  lanes: Lanes,
  mode: AutomationMode,
  value: Decibels,
): PlacedControl => ({ ref, control, mode, value, lane: lanes[control.id] ?? null, lanes });
const placeOwn = (part: 'strip' | 'vca', s: Strip | Vca, control: Control): PlacedControl =>
  place(
    { part, owner: s.id, id: null, control: control.id },
    control,
    s.lanes,
    s.automation,
    stripValue(s, control.id),
  );
const placeSend = (s: Strip, x: Send, control: Control): PlacedControl =>
  place(
    { part: 'send', owner: s.id, id: x.id, control: control.id },
    control,
    x.lanes,
    s.automation,
    sendValue(x, control.id),
  );
const placeInsert = (s: Strip, i: Insert, control: Control): PlacedControl =>
  place(
    { part: 'insert', owner: s.id, id: i.id, control: control.id },
    control,
    i.lanes,
    s.automation,
    insertValue(i, control.id),
  );

/** All that automation can move in a strip: its own controls, those of its sends, then those of its inserts. */
export const stripControls = (s: Strip): readonly PlacedControl[] => [
  ...STRIP.map((c) => placeOwn('strip', s, c)),
  ...s.sends.flatMap((x) => SEND.map((c) => placeSend(s, x, c))),
  ...s.inserts.flatMap((i) => insertControls(i.type).map((c) => placeInsert(s, i, c))),
];
export const vcaControls = (v: Vca): readonly PlacedControl[] => VCA.map((c) => placeOwn('vca', v, c));

/** @returns undefined where there is no such control (any more) */
export function findControl(session: Session, ref: ControlRef): PlacedControl | undefined {
  const named = (list: readonly Control[]) => list.find((c) => c.id === ref.control);
  if (ref.part === 'vca') {
    const vca = session.vcas.find((v) => v.id === ref.owner);
    const control = named(VCA);
    return vca && control && ref.id === null ? placeOwn('vca', vca, control) : undefined;
  }
  const strip = stripMap(session).get(ref.owner);
  if (!strip) return undefined;
  switch (ref.part) {
    case 'strip': {
      const control = named(STRIP);
      return control && ref.id === null ? placeOwn('strip', strip, control) : undefined;
    }
    case 'send': {
      const send = strip.sends.find((x) => x.id === ref.id);
      const control = named(SEND);
      return send && control && placeSend(strip, send, control);
    }
    case 'insert': {
      const insert = strip.inserts.find((i) => i.id === ref.id);
      const control = insert && insertControl(insert.type, ref.control);
      return control && placeInsert(strip, insert, control);
    }
  }
}

/** A control as it is called in its strip: `Level`, `Send level to Plate`, `Compressor: threshold`. */
export function controlName(session: Session, ref: ControlRef): string {
  const found = findControl(session, ref);
  const own = found?.control.name ?? ref.control;
  const strip = stripMap(session).get(ref.owner);
  if (ref.part === 'send') {
    const to = strip?.sends.find((x) => x.id === ref.id)?.to;
    return to ? `${own === 'Pan' ? 'Send pan' : own} to ${nameOf(session, to)}` : own;
  }
  if (ref.part === 'insert') {
    const insert = strip?.inserts.find((i) => i.id === ref.id);
    return insert ? `${processorOf(insert.type).name}: ${own.toLowerCase()}` : own;
  }
  return own;
}

/** The edit that gives a control's owner these lanes. */
export function lanesCommand(ref: ControlRef, lanes: Lanes): Command {
  switch (ref.part) {
    case 'strip':
      return { type: 'strip.set', id: ref.owner, patch: { lanes } };
    case 'vca':
      return { type: 'vca.set', id: ref.owner, patch: { lanes } };
    case 'send':
      return { type: 'send.set', strip: ref.owner, id: ref.id!, patch: { lanes } };
    case 'insert':
      return { type: 'insert.set', strip: ref.owner, id: ref.id!, patch: { lanes } };
  }
}

/** How a control's value is spoken. */
export const spokenValue = (control: Control, value: Decibels): string =>
  control.id === 'fader' || control.id === 'level' ? levelSpoken(value) : control.text(value);
