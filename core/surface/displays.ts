import type { Id } from '../base/units';
import { nameOf } from '../session/lookup';
import { encodersOf, type Field } from './encoders/field';
import type { Binding } from './encoders/binding';
import { fadedOf } from './faded';
import { isHeld } from './keys/key';
import { markOf, markWord, modeWord } from './marks';
import type { DisplayControl, EncoderControl, SurfaceProfile } from './profile/profile';
import { reachOf } from './reaches/registry';
import { ascii, shortNames } from './shortNames';
import { unitState, type DeskContext, type DeskState } from './state';
import { groupOf, listOf, slotsOf, windowState } from './window';

/** A value with the characters that every display has, its spaces given up where there is no room for them. */
export const plainValue = (text: string, characters: number): string => {
  const plain = ascii(text.replace(/−/g, '-').replace(/∞/g, 'inf').replace(/–/g, '-'));
  const short = plain.length <= characters ? plain : plain.replace(/ /g, '');
  return short.slice(0, characters);
};

const shortened = new Map<string, { readonly full: readonly string[]; readonly short: readonly string[] }>();

/** All that the displays of a unit say is worked out together, so that names stay distinct among each other. */
export class Telling {
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
export interface Shape {
  readonly faders: ReadonlyMap<number, string>;
  readonly encoders: readonly EncoderControl[];
  readonly encoderDisplays: boolean;
  readonly values: ReadonlySet<string>;
}
const shapes = new WeakMap<SurfaceProfile, Shape>();
export function shapeOf(
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
export function displayText(
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
