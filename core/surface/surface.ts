import { levelText } from '../levels/decibels';
import { levelAt, travelOf } from '../levels/faderLaw';
import type { Command } from '../edits/commands';
import { sheetOrder, toggleFlag } from '../operations/strips';
import { nameOf } from '../session/lookup';
import type { Session, Strip } from '../session/types';
import type { Id } from '../base/units';
import {
  control14,
  midiBytes,
  MIDI_START,
  parseMidi,
  type MidiMessage,
  type MidiParserState,
} from '../wire/midi';
import {
  encoderBindings,
  nextPlan,
  PAN_PLAN,
  planText,
  steered,
  turnPage,
  type EncoderPlan,
} from './encoders';
import type { ButtonRole, Control, FaderControl, MidiAddress, SurfaceProfile } from './profile';
import { ascii, shortNames } from './shortNames';

/** What the surface knows between two pieces of MIDI. Plain data. */
export interface SurfaceState {
  readonly parser: MidiParserState;
  /** Index, among the strips it can show, of the strip under the leftmost fader. */
  readonly first: number;
  /** What the encoders steer. */
  readonly encoders: EncoderPlan;
  /**
   * Faders with a hand on them, and where the hand last put each, 0..16383. `held`: the strips were moved away under
   * the hand; it moves nothing until it lets go.
   */
  readonly touched: Readonly<Record<string, number | null | 'held'>>;
  /** Where each fader was last heard to stand. */
  readonly heard: Readonly<Record<string, number>>;
  /** Upper seven bits that wait for their lower ones. */
  readonly upper: Readonly<Record<string, number>>;
  /** What was last sent to each control, so that only changes are sent. */
  readonly sent: Readonly<Record<string, string>>;
  /** Strips picked from the surface are marked on it. */
  readonly picked: readonly Id[];
  readonly playing: boolean;
}

export const SURFACE_START: SurfaceState = {
  parser: MIDI_START,
  first: 0,
  encoders: PAN_PLAN,
  touched: {},
  heard: {},
  upper: {},
  sent: {},
  picked: [],
  playing: false,
};

/**
 * What a hand on the surface asks for. A drag gives live edits, and one to keep when it ends. Of a control that cannot
 * tell when the hand lets go comes `settle`: live now, to be kept when it has rested for a moment.
 */
export type SurfaceAction =
  | {
      readonly type: 'live' | 'commit' | 'settle';
      readonly commands: readonly Command[];
      readonly label: string;
      readonly drag: string;
    }
  | { readonly type: 'pick'; readonly strip: Id }
  | { readonly type: 'play' | 'stop' };

export interface SurfaceStep {
  readonly actions: readonly SurfaceAction[];
  readonly state: SurfaceState;
}

/** Strips that the surface can show, in the Sheet's order; hidden ones stay out. */
export function surfaceStrips(session: Session): readonly Strip[] {
  let list = known.get(session.strips);
  if (!list) {
    const { sources, landing } = sheetOrder(session);
    known.set(session.strips, (list = [...sources, ...landing]));
  }
  return list;
}
const known = new WeakMap<readonly Strip[], readonly Strip[]>();

/** The strips under the surface's controls; null where there are no more. */
export function windowOf(
  session: Session,
  state: Pick<SurfaceState, 'first'>,
  profile: SurfaceProfile,
): readonly (Strip | null)[] {
  const strips = surfaceStrips(session);
  return Array.from({ length: profile.width }, (_, k) => strips[state.first + k] ?? null);
}

/**
 * Where a move of the window leads. A bank moves by the whole width, and the last bank may be part full, so that strips
 * of a bank always stand at the same place; a nudge moves by one.
 */
export function moveWindow(session: Session, first: number, by: number, profile: SurfaceProfile): number {
  const most = Math.max(0, surfaceStrips(session).length - 1);
  const lastBank = Math.floor(most / profile.width) * profile.width;
  return Math.max(0, Math.min(Math.abs(by) === 1 ? most : Math.max(lastBank, first), first + by));
}

const sameAddress = (a: MidiAddress, m: MidiMessage): boolean => {
  switch (a.type) {
    case 'control14':
      return (
        m.type === 'controlChange' &&
        m.channel === a.channel &&
        (m.controller === a.controller || m.controller === a.controller + 32)
      );
    case 'control':
    case 'relative':
      return m.type === 'controlChange' && m.channel === a.channel && m.controller === a.controller;
    case 'note':
      return (m.type === 'noteOn' || m.type === 'noteOff') && m.channel === a.channel && m.note === a.note;
    case 'pitchBend':
      return m.type === 'pitchBend' && m.channel === a.channel;
  }
};

const BANKS: Partial<Record<ButtonRole, number>> = { bankLeft: -1, bankRight: 1 };
const NUDGES: Partial<Record<ButtonRole, number>> = { nudgeLeft: -1, nudgeRight: 1 };
/** Half a hundredth of a decibel in steps of 14 bits, where the fader law is steepest, and one for rounding. */
const FADER_SLACK = 3;

/**
 * Takes a piece of MIDI from the device: (session, state, bytes in) gives (actions, state). When the actions have been carried
 * out, of however many pieces, `feedback` brings the device to what has become of the session.
 */
export function receive(
  session: Session,
  state: SurfaceState,
  bytes: Iterable<number>,
  profile: SurfaceProfile,
): SurfaceStep {
  const parsed = parseMidi(state.parser, bytes);
  let next: SurfaceState = { ...state, parser: parsed.state };
  const actions: SurfaceAction[] = [];
  for (const message of parsed.messages) {
    for (const control of profile.controls) {
      if (control.kind === 'fader' && control.touch && sameAddress(control.touch, message))
        next = touch(session, next, control, message.type === 'noteOn', profile, actions);
      if ('in' in control && sameAddress(control.in, message))
        next = heard(session, next, control, message, profile, actions);
    }
  }
  return { actions, state: next };
}

function stripAt(
  session: Session,
  state: SurfaceState,
  position: number | null,
  profile: SurfaceProfile,
): Strip | null {
  return position === null ? null : (windowOf(session, state, profile)[position] ?? null);
}

const levelCommands = (strip: Strip, value: number): readonly Command[] => [
  { type: 'strip.set', id: strip.id, patch: { faderDb: roundLevel(levelAt(value / 16383)) } },
];
/** A hundredth of a decibel is finer than a fader of 14 bits and keeps documents readable. */
const roundLevel = (level: number | null) => (level === null ? null : Math.round(level * 100) / 100);

function touch(
  session: Session,
  state: SurfaceState,
  fader: FaderControl,
  down: boolean,
  profile: SurfaceProfile,
  actions: SurfaceAction[],
): SurfaceState {
  const was = state.touched[fader.id];
  if (down) return was === undefined ? { ...state, touched: { ...state.touched, [fader.id]: null } } : state;
  const touched = { ...state.touched };
  delete touched[fader.id];
  const strip = stripAt(session, state, fader.position, profile);
  if (strip && typeof was === 'number')
    actions.push({
      type: 'commit',
      commands: levelCommands(strip, was),
      label: `level ${strip.name || strip.id}`,
      drag: fader.id,
    });
  return { ...state, touched };
}

/** Keeps what the hands have done on these strips, before others come under them. */
function letGo(
  session: Session,
  state: SurfaceState,
  profile: SurfaceProfile,
  actions: SurfaceAction[],
): SurfaceState {
  const touched: Record<string, 'held'> = {};
  for (const control of profile.controls) {
    if (control.kind !== 'fader' || !(control.id in state.touched)) continue;
    touch(session, state, control, false, profile, actions);
    touched[control.id] = 'held';
  }
  return { ...state, touched };
}

function heard(
  session: Session,
  state: SurfaceState,
  control: Exclude<Control, { kind: 'display' | 'colour' }>,
  message: MidiMessage,
  profile: SurfaceProfile,
  actions: SurfaceAction[],
): SurfaceState {
  const strip = stripAt(session, state, control.position, profile);
  if (control.kind === 'button') {
    if (message.type === 'noteOff' || (message.type === 'controlChange' && message.value === 0)) return state;
    const bank = BANKS[control.role];
    const nudge = NUDGES[control.role];
    if (bank !== undefined || nudge !== undefined) {
      const by = bank !== undefined ? bank * profile.width : nudge!;
      const first = moveWindow(session, state.first, by, profile);
      return first === state.first ? state : { ...letGo(session, state, profile, actions), first };
    }
    if (control.role === 'insert') {
      // The picked strip; where none is picked, the first under the hands that has any.
      const now = state.encoders.of === 'insert' ? state.encoders.strip : undefined;
      const near = windowOf(session, state, profile).find((s) => s && s.inserts.length > 0);
      const of = state.picked[0] ?? now ?? near?.id;
      return { ...state, encoders: nextPlan(session, state.encoders, of) };
    }
    if (control.role === 'pageLeft' || control.role === 'pageRight') {
      const by = control.role === 'pageLeft' ? -1 : 1;
      return { ...state, encoders: turnPage(session, state.encoders, by, profile.width) };
    }
    if (control.role === 'play' || control.role === 'stop') actions.push({ type: control.role });
    else if (strip && control.role === 'pick') actions.push({ type: 'pick', strip: strip.id });
    else if (strip && (control.role === 'mute' || control.role === 'solo'))
      actions.push({
        type: 'commit',
        commands: toggleFlag(session, [strip.id], control.role),
        label: `${control.role} ${strip.name || strip.id}`,
        drag: control.id,
      });
    return state;
  }
  if (control.kind === 'encoder') {
    if (message.type !== 'controlChange') return state;
    const bindings = encoderBindings(session, state.encoders, windowOf(session, state, profile));
    const binding = bindings[control.position];
    if (binding)
      actions.push({
        type: 'settle',
        commands:
          control.in.type === 'relative'
            ? binding.turn(message.value - 64)
            : binding.put(message.value / 127),
        label: binding.label,
        // What the encoder did before it came to steer something else stays an edit of its own.
        drag: `${control.id} ${binding.label}`,
      });
    return state;
  }
  const read = faderValue(state, control, message);
  if (read.value === null) return read.state;
  const at = read.value;
  const next = { ...read.state, heard: { ...read.state.heard, [control.id]: at } };
  if (!strip || next.touched[control.id] === 'held') return next;
  const label = `level ${strip.name || strip.id}`;
  if (control.touch && control.id in next.touched) {
    actions.push({ type: 'live', commands: levelCommands(strip, at), label, drag: control.id });
    return { ...next, touched: { ...next.touched, [control.id]: at } };
  }
  actions.push({ type: 'settle', commands: levelCommands(strip, at), label, drag: control.id });
  return next;
}

/** A fader's value, 0..16383; of a 14-bit control change once both halves are there. */
function faderValue(
  state: SurfaceState,
  control: FaderControl,
  message: MidiMessage,
): { state: SurfaceState; value: number | null } {
  const address = control.in;
  if (message.type === 'pitchBend') return { state, value: message.value };
  if (message.type !== 'controlChange') return { state, value: null };
  if (address.type !== 'control14') return { state, value: Math.round((message.value / 127) * 16383) };
  if (message.controller === address.controller)
    return { state: { ...state, upper: { ...state.upper, [control.id]: message.value } }, value: null };
  const upper = state.upper[control.id];
  return { state, value: upper === undefined ? null : (upper << 7) | message.value };
}

function addressBytes(address: MidiAddress, value: number, most: number): readonly number[] {
  switch (address.type) {
    case 'control14':
      return control14(address.channel, address.controller, (value / most) * 16383);
    case 'pitchBend':
      return midiBytes({ type: 'pitchBend', channel: address.channel, value: (value / most) * 16383 });
    case 'control':
    case 'relative':
      return midiBytes({
        type: 'controlChange',
        channel: address.channel,
        controller: address.controller,
        value: (value / most) * 127,
      });
    case 'note':
      return midiBytes({
        type: 'noteOn',
        channel: address.channel,
        note: address.note,
        velocity: (value / most) * 127,
      });
  }
}

const textBytes = (prefix: readonly number[], cell: number, text: string, characters: number) =>
  midiBytes({
    type: 'sysex',
    data: [
      ...prefix,
      cell,
      ...[...text.slice(0, characters).padEnd(characters)].map((c) => c.charCodeAt(0) & 0x7f),
    ],
  });

/** A value with the characters that every display has, its spaces given up where there is no room for them. */
const plainValue = (text: string, characters: number) => {
  const plain = text.replace(/−/g, '-').replace(/∞/g, 'inf');
  return plain.length <= characters ? plain : plain.replace(/ /g, '');
};

/**
 * What has to be sent so that the device shows the session: only what differs from what it was sent last. A fader
 * with a hand on it is left alone.
 */
export function feedback(
  session: Session,
  state: SurfaceState,
  profile: SurfaceProfile,
): { readonly state: SurfaceState; readonly bytes: readonly number[] } {
  const shown = windowOf(session, state, profile);
  const sent: Record<string, string> = { ...state.sent };
  const heardNow: Record<string, number> = { ...state.heard };
  const bytes: number[] = [];
  const send = (id: string, key: string, make: () => readonly number[]) => {
    if (sent[id] === key) return;
    sent[id] = key;
    bytes.push(...make());
  };
  const display = profile.controls.find((c) => c.kind === 'display' && c.shows === 'name');
  const bindings = encoderBindings(session, state.encoders, shown);
  const insert = steered(session, state.encoders, profile.width);
  const names = shortNames(
    // While an insert lies along the encoders, the displays tell of it.
    shown.map((s, i) => (insert ? (bindings[i]?.name ?? '') : s ? nameOf(session, s.id) : '')),
    display?.kind === 'display' ? display.characters : 7,
  );
  for (const control of profile.controls) {
    const strip = control.position === null ? null : (shown[control.position] ?? null);
    switch (control.kind) {
      case 'fader': {
        if (!control.out || control.id in state.touched) break;
        const at = strip ? Math.round(travelOf(strip.faderDb) * 16383) : 0;
        // Where the hand has just put it, give or take the rounding of the level, it stands already.
        const standing = heardNow[control.id];
        if (standing !== undefined && Math.abs(standing - at) <= FADER_SLACK) {
          sent[control.id] = String(at);
          break;
        }
        send(control.id, String(at), () => addressBytes(control.out!, at, 16383));
        heardNow[control.id] = at;
        break;
      }
      case 'encoder':
        if (control.out) {
          const binding = bindings[control.position];
          const at = binding ? Math.round(binding.travel * 126) + 1 : 0;
          send(control.id, String(at), () => addressBytes(control.out!, at, 127));
        }
        break;
      case 'button':
        if (control.led) {
          const lit =
            control.role === 'mute' || control.role === 'solo'
              ? strip?.[control.role] === true
              : control.role === 'pick'
                ? strip !== null && state.picked.includes(strip.id)
                : control.role === 'play'
                  ? state.playing
                  : control.role === 'bankLeft' || control.role === 'nudgeLeft'
                    ? state.first > 0
                    : control.role === 'insert'
                      ? insert !== null
                      : control.role === 'pageLeft'
                        ? insert !== null && insert.page > 0
                        : control.role === 'pageRight'
                          ? insert !== null && insert.page < insert.pages.length - 1
                          : false;
          send(control.id, lit ? '1' : '0', () => addressBytes(control.led!, lit ? 1 : 0, 1));
        }
        break;
      case 'display': {
        const { characters, prefix, position } = control;
        let text = '';
        if (position === null) text = ascii(planText(session, state.encoders, profile.width));
        else if (control.shows === 'name') text = names[position]!;
        else if (insert) text = plainValue(bindings[position]?.text ?? '', characters);
        else if (strip) text = plainValue(levelText(strip.faderDb), characters);
        send(control.id, text, () => textBytes(prefix, position ?? 0, text, characters));
        break;
      }
      case 'colour': {
        const hex = strip?.colour ?? '#000000';
        const part = (i: number) => parseInt(hex.slice(i, i + 2), 16) >> 1;
        send(control.id, hex, () =>
          midiBytes({
            type: 'sysex',
            data: [...control.prefix, control.position, part(1), part(3), part(5)],
          }),
        );
        break;
      }
    }
  }
  return { state: { ...state, sent, heard: heardNow }, bytes };
}
