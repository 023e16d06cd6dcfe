import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import { FADER, SEND_LEVEL, type Control, type ControlValue } from '../session/controls';
import { processorOf } from '../processors/registry';
import type { Insert, Send, Session, Strip } from '../session/types';
import type { Binding } from '../surface/encoders/binding';
import {
  insertSwitch,
  invertBinding,
  levelBinding,
  mixBinding,
  muteBinding,
  panBinding,
  parameterBinding,
  sendBindings,
  soloBinding,
  soloSafeBinding,
  swapBinding,
  trimBinding,
  widthBinding,
} from '../surface/encoders/bindings';
import { isVca, type Faded } from '../surface/faded';
import type { OscArgument } from '../wire/osc';
import type { OscDone, OscLeaf } from './address';

/*
 * Every control of a strip, a VCA, a send and an insert, as addresses. A control has three: its value in its own unit, where that
 * lies on its way (0 to 1, as a fader of a controller goes), and how it is written.
 */

/** One control of a kind of thing: its name in the address, and what it steers. */
export interface Steered<T> {
  readonly id: string;
  readonly about: string;
  /** What it holds, for the document; of a parameter, that is told with its processor. */
  readonly holds: string;
  /** @returns null where this one has no such control */
  of(thing: T): Binding | null;
}
const DB = 'decibels; N or −∞ is silence';
const SWITCH = 'T or F; a number is on from a half upwards';

export const STRIP: readonly Steered<Faded>[] = [
  {
    id: 'level',
    about: 'The fader.',
    holds: `${DB}; up to ${FADER.text(FADER.max)}`,
    of: levelBinding,
  },
  { id: 'mute', about: 'Mute.', holds: SWITCH, of: muteBinding },
  { id: 'solo', about: 'Solo.', holds: SWITCH, of: soloBinding },
];
const ofStrip =
  (make: (s: Strip) => Binding) =>
  (f: Faded): Binding | null =>
    isVca(f) ? null : make(f);
export const STRIP_ALONE: readonly Steered<Faded>[] = [
  { id: 'pan', about: 'Pan, or balance.', holds: '−1 left, 0 middle, 1 right', of: ofStrip(panBinding) },
  { id: 'trim', about: 'Input trim.', holds: 'decibels', of: ofStrip(trimBinding) },
  {
    id: 'width',
    about: 'Stereo width.',
    holds: '0 mono, 1 as it is, 2 twice as wide',
    of: ofStrip(widthBinding),
  },
  { id: 'invert', about: 'Polarity.', holds: SWITCH, of: ofStrip(invertBinding) },
  { id: 'swap', about: 'Left and right changed over.', holds: SWITCH, of: ofStrip(swapBinding) },
  { id: 'safe', about: 'Solo-safe.', holds: SWITCH, of: ofStrip(soloSafeBinding) },
];

export interface SendAt {
  readonly session: Session;
  readonly strip: Strip;
  readonly send: Send;
}
const part = (which: 'level' | 'pan' | 'on') => (x: SendAt) =>
  sendBindings(x.session, x.strip, x.send)[which];
export const SEND: readonly Steered<SendAt>[] = [
  {
    id: 'level',
    about: 'The send’s level.',
    holds: `${DB}; up to ${SEND_LEVEL.text(SEND_LEVEL.max)}`,
    of: part('level'),
  },
  { id: 'pan', about: 'The send’s pan.', holds: '−1 left, 0 middle, 1 right', of: part('pan') },
  { id: 'on', about: 'Whether it is on.', holds: SWITCH, of: part('on') },
];

export interface InsertAt {
  readonly strip: Strip;
  readonly insert: Insert;
}
export const INSERT: readonly Steered<InsertAt>[] = [
  {
    id: 'on',
    about: 'Whether it is on, or bypassed.',
    holds: SWITCH,
    of: ({ strip, insert }) => insertSwitch(strip, insert),
  },
  {
    id: 'mix',
    about: 'Share of the processed signal, where the processor has one.',
    holds: '0 dry, 1 wet',
    of: ({ strip, insert }) => mixBinding(strip, insert),
  },
];
const parameters = new Map<string, readonly Steered<InsertAt>[]>();
/** What an insert of a kind has beside that: its parameters, by their ids. */
export function insertControlsOf(type: string): readonly Steered<InsertAt>[] {
  let known = parameters.get(type);
  if (!known) {
    known = [
      ...INSERT,
      ...processorOf(type).parameters.map((p): Steered<InsertAt> => ({
        id: p.id,
        about: '',
        holds: '',
        of: ({ strip, insert }) => parameterBinding(strip, insert, p, false),
      })),
    ];
    parameters.set(type, known);
  }
  return known;
}

/** Whether a control is on or off. Choices of more than two go by their number, or by their name. */
const isSwitch = (c: Control) => c.stepped && c.min === 0 && c.max === 1;
/** Whether it can be silent. */
const isLevel = (c: Control) => c.valueAt(0) === null;

/** A number as it was meant: a float32 has seven digits. */
const plain = (n: number) => Number(n.toPrecision(7));
const wants = (c: Control) =>
  isSwitch(c)
    ? 'T, F or a number'
    : c.stepped
      ? `a number from ${c.min} to ${c.max}, or a name`
      : `a number, or a text such as \`${c.text(c.default)}\``;

/** The value that an argument stands for. @throws Refusal `range` */
function valueFrom(c: Control, address: string, given: OscArgument | undefined): ControlValue {
  const refuse = () => new Refusal('range', `\`${address}\` takes ${wants(c)}.`);
  switch (typeof given) {
    case 'number':
      if (Number.isNaN(given)) throw refuse();
      if (isSwitch(c)) return given >= 0.5 ? 1 : 0;
      if (isLevel(c) && given < c.min) return null;
      return plain(Math.max(c.min, Math.min(c.max, given)));
    case 'boolean':
      if (!c.stepped) throw refuse();
      return given ? 1 : 0;
    case 'string': {
      const read = c.read(given);
      if (read === undefined) throw refuse();
      return read;
    }
    default:
      if (given === null && isLevel(c)) return null;
      throw refuse();
  }
}
function travelFrom(address: string, given: OscArgument | undefined): number {
  if (typeof given === 'boolean') return given ? 1 : 0;
  if (typeof given !== 'number' || Number.isNaN(given))
    throw new Refusal('range', `\`${address}\` takes a number from 0 to 1.`);
  return plain(Math.max(0, Math.min(1, given)));
}

const edit = (b: Binding, commands: readonly Command[]): OscDone => ({
  type: 'edit',
  key: b.key,
  label: b.label,
  commands,
});

/** What is told of a value: of a switch whether it is on, of a level that is silent nothing. */
const told = (b: Binding): OscArgument =>
  isSwitch(b.control) ? b.value === 1 : b.value === null ? null : Math.fround(b.value);

export const VALUE = '';
export const TRAVEL = 'travel';
export const TEXT = 'text';
/** The three addresses of a control. */
export function controlLeaves(
  address: string,
  from: object,
  { about, holds }: Pick<Steered<never>, 'about' | 'holds'>,
  bind: () => Binding | null,
): Readonly<Record<typeof VALUE | typeof TRAVEL | typeof TEXT, OscLeaf>> {
  // What is looked up for its address alone is never worked out.
  let found: Binding | null | undefined;
  const binding = () => (found ??= bind()!);
  return {
    [VALUE]: {
      address,
      about,
      holds,
      from,
      tell: () => told(binding()),
      take: ([given]) => edit(binding(), binding().set(valueFrom(binding().control, address, given))),
    },
    [TRAVEL]: {
      address: `${address}/${TRAVEL}`,
      about,
      holds: '0 to 1',
      from,
      tell: () => Math.fround(binding().travel),
      take: ([given]) => edit(binding(), binding().put(travelFrom(`${address}/${TRAVEL}`, given))),
    },
    [TEXT]: { address: `${address}/${TEXT}`, about, holds: 'text', from, tell: () => binding().text },
  };
}
