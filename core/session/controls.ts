import type { Travel } from '../base/units';
import { levelSpoken, levelText, readLevel } from '../levels/decibels';
import { clampLevel, FADER_FLOOR, FADER_TOP, levelAt, travelOf } from '../levels/faderLaw';
import { panText, readPan } from '../levels/pan';
import type { Parameter } from '../processors/description';
import { onStep, travelAt, valueAtTravel } from '../processors/law';
import { processorOf } from '../processors/registry';
import { parameterName, parameterText, readParameter } from '../processors/text';

/** A value of a control, in the control's own unit; null is the silence of a level. */
export type ControlValue = number | null;

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
  travelOf(value: ControlValue): Travel;
  valueAt(travel: Travel): ControlValue;
  text(value: ControlValue): string;
  /** @returns undefined where the text is no value of it */
  read(text: string): ControlValue | undefined;
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
export const STRIP_CONTROLS: readonly Control[] = [FADER, PAN, MUTE];
export const VCA_CONTROLS = STRIP_CONTROLS.filter((c) => c !== pan);
export const SEND_CONTROLS: readonly Control[] = [SEND_LEVEL, PAN, SEND_ON];
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

/** How a control's value is spoken. */
export const spokenValue = (control: Control, value: ControlValue): string =>
  control.id === 'fader' || control.id === 'level' ? levelSpoken(value) : control.text(value);
