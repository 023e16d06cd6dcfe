import type { Id } from '../base/units';
import { nameOf } from '../session/lookup';
import { control14, midiBytes } from '../wire/midi';
import { encodersOf, fieldOf, type Field } from './encoders/field';
import type { Binding } from './encoders/binding';
import { fadedOf } from './faded';
import { isHeld } from './keys/key';
import { keyRole } from './keys/registry';
import { markLit, markOf, markWord, modeWord, type Lit } from './marks';
import type { Light, MidiAddress } from './profile/fields';
import { RINGS } from './profile/fields';
import type { Control, DisplayControl, EncoderControl, SurfaceProfile } from './profile/profile';
import { reachOf } from './reaches/registry';
import { ascii, shortNames } from './shortNames';
import { BLINK_MS, HOLD_MS, unitState, type DeskContext, type DeskState, type UnitState } from './state';
import { groupOf, listOf, slotsOf, windowState } from './window';

export interface Answer {
  readonly state: DeskState;
  /** Bytes for each unit to which anything has to be said. */
  readonly bytes: Readonly<Record<string, readonly number[]>>;
  /** In how many milliseconds something shown ends or blinks, so that it has to be asked again; null where nothing does. */
  readonly again: number | null;
}

/** How long a motor waits for a hand that cannot be told to have gone. */
const FIGHTS_MS = 300;
/** Half a hundredth of a decibel in steps of 14 bits, where the fader law is steepest, and one for rounding. */
const FADER_SLACK = 3;

function addressBytes(address: MidiAddress, share: number): readonly number[] {
  switch (address.type) {
    case 'control14':
      return control14(address.channel, address.controller, share * 16383);
    case 'pitchBend':
      return midiBytes({ type: 'pitchBend', channel: address.channel, value: share * 16383 });
    case 'control':
      return valueBytes(address, share * 127);
    case 'note':
      return valueBytes(address, share * 127);
    case 'parameter': {
      const value = Math.round(share * 16383);
      const change = (controller: number, v: number) =>
        midiBytes({ type: 'controlChange', channel: address.channel, controller, value: v });
      return [
        ...change(99, address.parameter >> 7),
        ...change(98, address.parameter & 127),
        ...change(6, value >> 7),
        ...change(38, value & 127),
      ];
    }
  }
}
/** A value of seven bits, by a note's velocity or a controller. */
function valueBytes(address: MidiAddress, value: number): readonly number[] {
  if (address.type === 'note')
    return midiBytes({ type: 'noteOn', channel: address.channel, note: address.note, velocity: value });
  if (address.type === 'control')
    return midiBytes({
      type: 'controlChange',
      channel: address.channel,
      controller: address.controller,
      value,
    });
  return addressBytes(address, value / 127);
}
const lightValue = (light: Light, lit: Lit, now: number): number => {
  if (lit === 'off') return 0;
  if (lit === 'dim') return light.dim ?? light.on;
  if (lit === 'blink') return Math.floor(now / BLINK_MS) % 2 ? 0 : light.on;
  return light.on;
};

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
export const plainValue = (text: string, characters: number): string => {
  const plain = ascii(text.replace(/−/g, '-').replace(/∞/g, 'inf').replace(/–/g, '-'));
  const short = plain.length <= characters ? plain : plain.replace(/ /g, '');
  return short.slice(0, characters);
};

const shortened = new Map<string, { readonly full: readonly string[]; readonly short: readonly string[] }>();

/** All that the displays of a unit say is worked out together, so that names stay distinct among each other. */
class Telling {
  private readonly full = new Map<string, readonly string[]>();
  constructor(
    private readonly context: DeskContext,
    private readonly state: DeskState,
    private readonly field: Field,
  ) {}

  /** Names that were told before are not shortened again. */
  private short(key: string, characters: number, full: () => readonly string[]): readonly string[] {
    const at = `${key} ${characters}`;
    let names = this.full.get(key);
    if (!names) this.full.set(key, (names = full()));
    const before = shortened.get(at);
    if (before && before.full.length === names.length && names.every((n, i) => n === before.full[i]))
      return before.short;
    const short = shortNames(names, characters);
    shortened.set(at, { full: names, short });
    return short;
  }
  /** Names of what lies in the window that a unit has a part in. */
  strips(unit: string, characters: number): readonly string[] {
    const { context, state } = this;
    const group = groupOf(context, unit);
    if (!group) return [];
    const all = slotsOf(context, state);
    const ids = group.units.flatMap((u) => all[u.id] ?? []);
    const names = this.short(`strips ${group.key}`, characters, () =>
      ids.map((id) => (id === null ? '' : nameOf(context.session, id))),
    );
    let from = 0;
    for (const u of group.units) {
      if (u.id === unit) break;
      from += all[u.id]?.length ?? 0;
    }
    return names.slice(from);
  }
  /** Names of what the encoders of a unit steer, in their order. */
  encoders(unit: string, controls: readonly EncoderControl[], characters: number): readonly string[] {
    const { context, state, field } = this;
    const away = field.turnedAway.has(unit);
    return this.short(`encoders ${unit}`, characters, () =>
      controls.map((c) => {
        const binding = field.encoders[unit]?.[c.id];
        if (!binding) return '';
        // Across, each stands for its strip; along one, each for a thing of it.
        return away && state.encoders.mode !== 'columns'
          ? binding.name
          : nameOf(context.session, binding.owner);
      }),
    );
  }
  faders(unit: string, characters: number): readonly string[] {
    return this.short(`faders ${unit}`, characters, () =>
      (this.field.faders[unit] ?? []).map((b) => b?.name ?? ''),
    );
  }
}

/** What the display of the whole unit says of what the encoders steer: a message for a moment, the list of sessions, or the page. */
function pageText(context: DeskContext, state: DeskState, field: Field): string {
  if (state.list !== null) {
    const chosen = context.recent[state.list];
    return `Open ${state.list + 1}/${context.recent.length}: ${chosen?.name ?? ''}`;
  }
  if (state.message && state.message.until > context.now) return state.message.text;
  return field.page.text;
}
/** What the window shows: `ALL 9-16 of 33`. */
export function reachText(context: DeskContext, state: DeskState, unit: string): string {
  const group = groupOf(context, unit);
  if (!group) return '';
  const { reach, first } = windowState(context, state, group.key);
  const kind = reachOf(reach.id);
  const subject = kind.subject?.(context, reach);
  const list = windowState(context, state, group.key).following ?? listOf(context, state, group);
  const shown = slotsOf(context, state);
  const here = new Set(group.units.flatMap((u) => shown[u.id] ?? []));
  const last = list.reduce((most, id, i) => (id !== null && here.has(id) ? i + 1 : most), 0);
  const span = list.length
    ? `${Math.min(first + 1, list.length)}-${Math.max(last, Math.min(first + 1, list.length))} of ${list.length}`
    : 'none';
  return [kind.word, subject, span, context.desk.joined ? '' : 'APART', state.layer === 2 ? 'LAYER 2' : '']
    .filter(Boolean)
    .join(' ');
}

/** Whether a value of a control is shown now, and which way its hand has to go. */
function showing(context: DeskContext, state: DeskState, unit: string, control: string | undefined) {
  if (control === undefined) return null;
  const u = unitState(state, unit);
  const timed = state.shown[`${unit} ${control}`];
  if (timed && timed.until > context.now) return timed;
  const touched = control in u.grips || control in u.held || `${control} push` in u.held;
  return touched ? { until: 0, go: null } : null;
}

/** What was worked out of a profile once: which control stands at which place, and which displays it has. */
interface Shape {
  readonly faders: ReadonlyMap<number, string>;
  readonly encoders: readonly EncoderControl[];
  readonly encoderDisplays: boolean;
  readonly values: ReadonlySet<string>;
}
const shapes = new WeakMap<SurfaceProfile, Shape>();
function shapeOf(
  context: DeskContext,
  unit: DeskContext['desk']['units'][number],
  profile: SurfaceProfile,
): Shape {
  let known = shapes.get(profile);
  if (!known) {
    const displays = profile.controls.filter((c): c is DisplayControl => c.kind === 'display');
    known = {
      faders: new Map(profile.controls.flatMap((c) => (c.kind === 'fader' ? [[c.position, c.id]] : []))),
      encoders: encodersOf(context, unit),
      encoderDisplays: displays.some((d) => d.over === 'encoder'),
      values: new Set(
        displays.filter((d) => d.shows === 'value').map((d) => `${d.over} ${d.row} ${d.position}`),
      ),
    };
    shapes.set(profile, known);
  }
  return known;
}

const valueText = (b: Binding | null | undefined) => b?.text ?? '';

/** What a display says. */
function displayText(
  context: DeskContext,
  state: DeskState,
  unit: string,
  shape: Shape,
  display: DisplayControl,
  field: Field,
  slots: readonly (Id | null)[],
  telling: Telling,
): string {
  const { characters, position, over, row } = display;
  if (display.shows === 'page') return ascii(pageText(context, state, field)).slice(0, characters);
  if (display.shows === 'reach') return ascii(reachText(context, state, unit)).slice(0, characters);
  if (position === null) return '';
  const hasValue = shape.values.has(`${over} ${row} ${position}`);
  const hint = (go: 'up' | 'down' | null) => (go === null ? null : `go ${go}`);
  if (over === 'encoder') {
    const index = shape.encoders.findIndex((c) => c.row === row && c.position === position);
    const control = shape.encoders[index];
    const binding = control && field.encoders[unit]?.[control.id];
    if (!control || !binding) return '';
    const now = showing(context, state, unit, control.id);
    const second = isHeld(state, 'second') ? binding.second : undefined;
    const value = hint(now?.go ?? null) ?? valueText(second ?? binding);
    if (display.shows === 'mode') return markWord(markOf(context, (second ?? binding).ref));
    if (display.shows === 'value' || (now && !hasValue)) return plainValue(value, characters);
    if (second) return plainValue(second.name, characters);
    return telling.encoders(unit, shape.encoders, characters)[index] ?? '';
  }
  const faded = fadedOf(context.session, slots[position]);
  // Where encoders have no displays of their own, those over the faders tell of them while they go along a strip.
  const alone = !shape.encoderDisplays && field.turnedAway.has(unit);
  const encoder = shape.encoderDisplays
    ? undefined
    : shape.encoders.find((c) => c.row === 0 && c.position === position);
  const under = encoder && field.encoders[unit]?.[encoder.id];
  const fader = shape.faders.get(position);
  const now = showing(context, state, unit, fader);
  const turned = encoder && showing(context, state, unit, encoder.id);
  const second = isHeld(state, 'second') ? under?.second : undefined;
  const binding = alone ? (second ?? under) : field.faders[unit]?.[position];
  if (display.shows === 'mode')
    return faded && !alone ? modeWord(context, faded) : markWord(markOf(context, under?.ref ?? null));
  const value =
    hint(now?.go ?? turned?.go ?? null) ?? (turned && !now ? valueText(second ?? under) : valueText(binding));
  if (display.shows === 'value' || ((now || turned) && !hasValue)) return plainValue(value, characters);
  if (alone)
    return telling.encoders(unit, shape.encoders, characters)[shape.encoders.indexOf(encoder!)] ?? '';
  if (state.flip && state.encoders.mode !== 'across' && state.encoders.mode !== 'columns')
    return telling.faders(unit, characters)[position] ?? '';
  return faded ? (telling.strips(unit, characters)[position] ?? '') : '';
}

const DARK = '#000000';
const colourBytes = (prefix: readonly number[], cell: number, hex: string) => {
  const part = (i: number) => parseInt(hex.slice(i, i + 2), 16) >> 1;
  return midiBytes({ type: 'sysex', data: [...prefix, cell, part(1), part(3), part(5)] });
};

/**
 * What has to be sent so that every device shows the session: only what differs from what it was sent last. A fader with a hand on it is
 * left alone.
 */
export function feedback(context: DeskContext, state: DeskState): Answer {
  const field = fieldOf(context, state);
  const slots = slotsOf(context, state);
  const telling = new Telling(context, state, field);
  const bytes: Record<string, readonly number[]> = {};
  const units: Record<string, UnitState> = { ...state.units };
  const { now } = context;
  let again = Infinity;
  const until = (time: number) => {
    if (time > now) again = Math.min(again, time - now);
  };
  if (state.message) until(state.message.until);
  for (const s of Object.values(state.shown)) until(s.until);
  for (const u of Object.values(state.units))
    for (const d of Object.values(u.down))
      if (keyRole(d.role)?.hold && !d.fired && !d.used) until(d.since + HOLD_MS);

  for (const unit of context.desk.units) {
    const profile = context.profile(unit.profile);
    if (!profile) continue;
    const u = unitState(state, unit.id);
    const shape = shapeOf(context, unit, profile);
    const own = slots[unit.id] ?? [];
    const sent: Record<string, string> = { ...u.sent };
    const heard: Record<string, number> = { ...u.heard };
    const out: number[] = [];
    const send = (id: string, key: string, make: () => readonly number[]) => {
      if (sent[id] === key) return;
      sent[id] = key;
      out.push(...make());
    };
    const shine = (id: string, light: Light | null, lit: Lit) => {
      if (!light) return;
      if (lit === 'blink') until((Math.floor(now / BLINK_MS) + 1) * BLINK_MS);
      const value = lightValue(light, lit, now);
      send(id, String(value), () => valueBytes(light.address, value));
    };
    for (const control of profile.controls) answer(control);

    function answer(control: Control): void {
      switch (control.kind) {
        case 'fader': {
          if (!control.out || control.id in u.grips) return;
          // A hand that cannot be told is taken to rest there for a moment after it moved the fader.
          const last = u.moved[control.id];
          if (last !== undefined && now - last < FIGHTS_MS) return until(last + FIGHTS_MS);
          const binding = field.faders[unit.id]?.[control.position];
          const at = binding ? Math.round(binding.travel * 16383) : 0;
          // Where the hand has just put it, give or take the rounding of the value, it stands already.
          const standing = heard[control.id];
          if (standing !== undefined && Math.abs(standing - at) <= FADER_SLACK) {
            sent[control.id] = String(at);
            return;
          }
          // The device may have been moved since it was sent there.
          sent[control.id] = '';
          send(control.id, String(at), () => addressBytes(control.out!, at / 16383));
          heard[control.id] = at;
          return;
        }
        case 'encoder': {
          const found = field.encoders[unit.id]?.[control.id] ?? null;
          const binding = found && isHeld(state, 'second') && found.second ? found.second : found;
          shine(`${control.id} light`, control.light, markLit(markOf(context, binding?.ref ?? null)));
          if (!control.ring) return;
          const { address, style, styles } = control.ring;
          if (style) {
            const shownAs = binding && styles.includes(binding.ring) ? binding.ring : (styles[0] ?? 'left');
            const code = RINGS.indexOf(shownAs);
            send(`${control.id} style`, String(code), () => valueBytes(style, code));
          }
          const at = binding ? Math.round(binding.travel * 126) + 1 : 0;
          send(control.id, String(at), () => addressBytes(address, at / 127));
          return;
        }
        case 'key': {
          if (!control.light) return;
          const faded =
            control.position === null ? null : (fadedOf(context.session, own[control.position]) ?? null);
          const role = keyRole(control.role);
          const found =
            control.role === 'user'
              ? context.desk.userKeys.some((k) => k.key === control.user && k.layer === state.layer)
              : false;
          const lit = found ? 'dim' : (role?.lit(context, state, { unit: unit.id, faded }) ?? 'off');
          shine(control.id, control.light, lit);
          return;
        }
        case 'display': {
          const text = displayText(context, state, unit.id, shape, control, field, own, telling);
          send(control.id, text, () =>
            textBytes(control.prefix, control.cell ?? control.position ?? 0, text, control.characters),
          );
          return;
        }
        case 'colour': {
          const owner =
            control.over === 'fader'
              ? own[control.position]
              : field.encoders[unit.id]?.[
                  shape.encoders.find((c) => c.row === control.row && c.position === control.position)?.id ??
                    ''
                ]?.owner;
          const hex = fadedOf(context.session, owner)?.colour ?? DARK;
          send(control.id, hex, () => colourBytes(control.prefix, control.cell ?? control.position, hex));
          return;
        }
        case 'meter': {
          const id = own[control.position];
          const level = id ? context.meter(id) : null;
          const at =
            level === null || level < -60
              ? 0
              : Math.max(1, Math.min(127, Math.round(((level + 60) / 60) * 126) + 1));
          send(control.id, String(at), () => addressBytes(control.address, at / 127));
          return;
        }
      }
    }
    units[unit.id] = { ...u, sent, heard };
    if (out.length) bytes[unit.id] = out;
  }
  const shown = Object.values(state.shown).every((x) => x.until > now)
    ? state.shown
    : Object.fromEntries(Object.entries(state.shown).filter(([, x]) => x.until > now));
  return { state: { ...state, units, shown }, bytes, again: Number.isFinite(again) ? again : null };
}
