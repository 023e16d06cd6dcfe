import { LIMITS } from '../../base/limits';
import { PREAMP } from '../../devices/preamp';
import { levelText } from '../../levels/decibels';
import { valueOf, type Parameter } from '../../processors/description';
import { processorOf } from '../../processors/registry';
import { parameterName } from '../../processors/text';
import {
  FADER,
  insertControl,
  MUTE,
  PAN,
  SEND_LEVEL,
  SEND_ON,
  type Control,
  type ControlValue,
} from '../../session/controls';
import { nameOf } from '../../session/lookup';
import type { Insert, Send, Session, Strip } from '../../session/types';
import { isVca, type Faded } from '../faded';
import type { Command, StripPatch } from '../../edits/commands';
import { bound, type Binding } from './binding';

/*
 * Every control of a session that a hand can take hold of, as a binding.
 */

const called = (f: Faded) => f.name || f.id;
const flag = (id: string, name: string, off: string, on: string): Control => ({
  ...MUTE,
  id,
  name,
  text: (v) => (v ? on : off),
});
/** What is no control of automation, but lies on a way all the same. */
const way = (
  id: string,
  name: string,
  min: number,
  max: number,
  usual: number,
  text: Control['text'],
  stepped = false,
): Control => ({
  id,
  name,
  stepped,
  adds: 'travel',
  default: usual,
  min,
  max,
  travelOf: (v) => ((v ?? min) - min) / (max - min),
  valueAt: (t) => min + t * (max - min),
  text,
  read: () => undefined,
});
const db: Control['text'] = (v) => `${levelText(v)} dB`;
const TRIM = way('trim', 'Trim', -LIMITS.trimTop, LIMITS.trimTop, 0, db);
const WIDTH = way('width', 'Width', 0, 2, 1, (v) => `${Math.round((v ?? 0) * 100)} %`);
const GAIN = way('gain', 'Preamp gain', PREAMP.gainMin, PREAMP.gainMax, 30, (v) => `${v} dB`);
const SOLO = flag('solo', 'Solo', 'off', 'soloed');
const SAFE = flag('safe', 'Solo-safe', 'no', 'solo-safe');
const POLARITY = flag('invert', 'Polarity', 'normal', 'inverted');
const SWAP = flag('swap', 'Swap', 'L/R', 'R/L');

const stripField = (
  strip: Strip,
  control: Control,
  value: ControlValue,
  grain: number,
  patch: (value: ControlValue) => StripPatch,
  more: {
    readonly ring?: Binding['ring'];
    readonly automated?: true;
    readonly label?: string;
    readonly finest?: number;
  } = {},
): Binding =>
  bound({
    key: `${strip.id} ${control.id}`,
    owner: strip.id,
    name: control.name,
    label: `${more.label ?? control.name.toLowerCase()} ${called(strip)}`,
    control,
    value,
    grain,
    ...(more.ring ? { ring: more.ring } : {}),
    ...(more.finest ? { finest: more.finest } : {}),
    ref: more.automated ? { part: 'strip', owner: strip.id, id: null, control: control.id } : null,
    set: (v) => [{ type: 'strip.set', id: strip.id, patch: patch(v) }],
  });

export const levelKey = (id: string): string => `${id} level`;
/** The fader, of a strip or a VCA. */
export const levelBinding = (f: Faded): Binding =>
  bound({
    key: levelKey(f.id),
    owner: f.id,
    name: 'Level',
    label: `level ${called(f)}`,
    control: FADER,
    value: f.faderDb,
    grain: 0.1,
    text: levelText(f.faderDb),
    ref: { part: isVca(f) ? 'vca' : 'strip', owner: f.id, id: null, control: 'fader' },
    set: (faderDb) => [
      isVca(f)
        ? { type: 'vca.set', id: f.id, patch: { faderDb } }
        : { type: 'strip.set', id: f.id, patch: { faderDb } },
    ],
  });
export const panBinding = (s: Strip): Binding =>
  stripField(s, PAN, s.pan, 0.01, (v) => ({ pan: v ?? 0 }), { ring: 'centre', automated: true });
/** What is on or off: of a strip, or of a VCA. */
const switchBinding = (f: Faded, field: 'mute' | 'solo', control: Control): Binding =>
  bound({
    key: `${f.id} ${field}`,
    owner: f.id,
    name: control.name,
    label: `${field} ${called(f)}`,
    control,
    value: Number(f[field]),
    grain: 1,
    ref:
      field === 'mute' ? { part: isVca(f) ? 'vca' : 'strip', owner: f.id, id: null, control: 'mute' } : null,
    set: (v) => [
      { type: isVca(f) ? 'vca.set' : 'strip.set', id: f.id, patch: { [field]: v === 1 } } as Command,
    ],
  });
export const muteBinding = (f: Faded): Binding => switchBinding(f, 'mute', MUTE);
export const soloBinding = (f: Faded): Binding => switchBinding(f, 'solo', SOLO);
export const soloSafeBinding = (s: Strip): Binding =>
  stripField(s, SAFE, Number(s.soloSafe), 1, (v) => ({ soloSafe: v === 1 }));
export const trimBinding = (s: Strip): Binding =>
  stripField(s, TRIM, s.trimDb, 0.1, (v) => ({ trimDb: v }), {
    ring: 'centre',
  });
export const widthBinding = (s: Strip): Binding =>
  stripField(s, WIDTH, s.width, 0.01, (v) => ({ width: v ?? 1 }), { ring: 'width' });
export const invertBinding = (s: Strip): Binding =>
  stripField(s, POLARITY, Number(s.invert), 1, (v) => ({ invert: v === 1 }));
export const swapBinding = (s: Strip): Binding =>
  stripField(s, SWAP, Number(s.swap), 1, (v) => ({ swap: v === 1 }));
/** Gain of the remote preamplifier that a source comes by; null where it comes by none. */
export function gainBinding(s: Strip): Binding | null {
  const { preamp } = s;
  if (!preamp) return null;
  return stripField(
    s,
    GAIN,
    preamp.gainDb,
    PREAMP.gainStep,
    (v) => ({ preamp: { ...preamp, gainDb: v ?? preamp.gainDb } }),
    { finest: PREAMP.gainStep },
  );
}
/** Phantom power, pad, low cut and polarity of the preamplifier. */
export function preampSwitches(s: Strip): readonly Binding[] {
  const { preamp } = s;
  if (!preamp) return [];
  const one = (field: 'phantom' | 'pad' | 'lowCut' | 'invert', name: string) =>
    stripField(s, flag(`preamp-${field}`, name, 'off', 'on'), Number(preamp[field]), 1, (v) => ({
      preamp: { ...preamp, [field]: v === 1 },
    }));
  return [
    one('phantom', 'Phantom'),
    one('pad', 'Pad'),
    one('lowCut', 'Low cut'),
    one('invert', 'Preamp pol'),
  ];
}

/** Level, pan and switch of a send, each alone. */
export function sendBindings(
  session: Session,
  s: Strip,
  send: Send,
): { readonly level: Binding; readonly pan: Binding; readonly on: Binding } {
  const to = nameOf(session, send.to);
  const ref = (control: string) => ({ part: 'send', owner: s.id, id: send.id, control }) as const;
  const make = (
    control: Control,
    field: 'levelDb' | 'pan' | 'on',
    value: ControlValue,
    grain: number,
    what: string,
  ) =>
    bound({
      key: `${s.id} send ${send.to} ${control.id}`,
      owner: s.id,
      name: control === SEND_LEVEL ? to : `${control.name} ${to}`,
      label: `${what} ${called(s)} to ${to}`,
      control,
      value,
      grain,
      ref: ref(control.id),
      set: (v) => [
        {
          type: 'send.set',
          strip: s.id,
          id: send.id,
          patch: { [field]: field === 'on' ? v === 1 : v },
        },
      ],
    });
  return {
    level: make(SEND_LEVEL, 'levelDb', send.levelDb, 0.1, 'send'),
    pan: make(PAN, 'pan', send.pan, 0.01, 'pan of send'),
    on: make(SEND_ON, 'on', Number(send.on), 1, 'send'),
  };
}
/** A send on one encoder: its level, under it its pan, and its switch as that one's push. */
export function sendBinding(session: Session, s: Strip, send: Send): Binding {
  const { level, pan, on } = sendBindings(session, s, send);
  // A send that is off says so.
  return { ...level, text: send.on ? level.text : `off ${level.text}`, second: { ...pan, push: on.push } };
}

/** Whether an insert is on: a push, or a turn, switches it. */
export function insertSwitch(s: Strip, insert: Insert): Binding {
  const { name } = processorOf(insert.type);
  return bound({
    key: `${s.id} ${insert.id} on`,
    owner: s.id,
    name,
    label: `${name} of ${called(s)}`,
    control: insertControl(insert.type, 'on')!,
    value: Number(insert.on),
    grain: 1,
    insert: insert.id,
    ref: { part: 'insert', owner: s.id, id: insert.id, control: 'on' },
    set: (v) => [{ type: 'insert.set', strip: s.id, id: insert.id, patch: { on: v === 1 } }],
  });
}

/** How much of the processed signal is heard. */
export function mixBinding(s: Strip, insert: Insert): Binding | null {
  const control = insertControl(insert.type, 'mix');
  if (!control) return null;
  const { name } = processorOf(insert.type);
  return bound({
    key: `${s.id} ${insert.id} mix`,
    owner: s.id,
    name: control.name,
    label: `mix of ${name}, ${called(s)}`,
    control,
    value: insert.mix,
    grain: 0.01,
    insert: insert.id,
    ref: { part: 'insert', owner: s.id, id: insert.id, control: 'mix' },
    set: (v) => [{ type: 'insert.set', strip: s.id, id: insert.id, patch: { mix: v ?? 0 } }],
  });
}

const latent = new Map<Parameter, Control>();
/** The control of a parameter; of one that automation cannot move, made here. */
function parameterControl(insert: Insert, p: Parameter): Control {
  const known = insertControl(insert.type, p.id) ?? latent.get(p);
  if (known) return known;
  const { parameters } = processorOf(insert.type);
  const made = way(
    p.id,
    parameterName(p, parameters),
    p.min,
    p.max,
    p.default,
    (v) => String(v),
    p.choices !== undefined,
  );
  latent.set(p, made);
  return made;
}

/** A parameter of an insert, with what belongs to it on the same encoder: the Q of a band beside its frequency. */
export function parameterBinding(s: Strip, insert: Insert, p: Parameter, withSecond = true): Binding {
  const processor = processorOf(insert.type);
  const control = parameterControl(insert, p);
  const second = withSecond ? secondOf(p, processor.parameters) : undefined;
  const automated = insertControl(insert.type, p.id) !== undefined;
  return bound({
    key: `${s.id} ${insert.id} ${p.id}`,
    owner: s.id,
    name: parameterName(p, processor.parameters),
    label: `${parameterName(p, processor.parameters).toLowerCase()} of ${processor.name}, ${called(s)}`,
    control,
    value: valueOf(p, insert.params),
    grain: p.step,
    insert: insert.id,
    // A frequency is a place, not an amount.
    ...(p.unit === 'Hz' ? { ring: 'dot' as const } : {}),
    ref: automated ? { part: 'insert', owner: s.id, id: insert.id, control: p.id } : null,
    set: (v) => [
      {
        type: 'insert.set',
        strip: s.id,
        id: insert.id,
        patch: { params: { ...insert.params, [p.id]: v ?? p.min } },
      },
    ],
    ...(second ? { second: parameterBinding(s, insert, second, false) } : {}),
  });
}

/** The parameter that lies under another while the second function is held: a band's Q or slope beside its frequency, the switch beside its gain. */
function secondOf(p: Parameter, all: readonly Parameter[]): Parameter | undefined {
  if (!p.group) return undefined;
  const inGroup = all.filter((x) => x.group === p.group && x !== p);
  if (p.name === 'Frequency') return inGroup.find((x) => x.name === 'Q' || x.name === 'Slope');
  if (p.name === 'Gain') return inGroup.find((x) => x.name === 'On');
  if (p.name === 'Threshold') return inGroup.find((x) => x.name === 'Ratio');
  return undefined;
}
