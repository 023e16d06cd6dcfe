import type { Id } from '../../base/units';
import { processorOf } from '../../processors/registry';
import { nameOf, stripMap } from '../../session/lookup';
import type { Unit } from '../desk/desk';
import { fadedOf, isVca } from '../faded';
import type { EncoderControl, FaderControl } from '../profile/profile';
import type { DeskContext, DeskState } from '../state';
import { remembered } from '../structure';
import { groupOf, groupsOf, slotsOf, slotsOfGroup, type Group } from '../window';
import { acrossOf, choiceOf } from './across/registry';
import { alongOf } from './along/registry';
import type { Page } from './along/along';
import { insertPages, insertUnder } from './along/insert';
import type { Binding } from './binding';
import { levelBinding } from './bindings';
import { subjectOf } from './subject';
import { steeredBy } from '../steering';

/** What all encoders and faders of a desk steer now, and what its display says of it. */
export interface Field {
  /** By unit, then by the encoder's id. */
  readonly encoders: Readonly<Record<string, Readonly<Record<string, Binding | null>>>>;
  /** By unit, then by the fader's place. */
  readonly faders: Readonly<Record<string, readonly (Binding | null)[]>>;
  /** Units whose encoders do not stand for the strips over which they lie. */
  readonly turnedAway: ReadonlySet<string>;
  readonly page: PageTold;
}
export interface PageTold {
  readonly text: string;
  /** From 0, and how many there are. */
  readonly page: number;
  readonly pages: number;
  /** By what the page is remembered. */
  readonly key: string;
  /** The strip along which they go; null where they go across, or where there is none. */
  readonly strip: Id | null;
}

/** Encoders of a unit, row by row from the left. */
export const encodersOf = (context: DeskContext, unit: Unit): readonly EncoderControl[] =>
  (context.profile(unit.profile)?.controls ?? [])
    .filter((c) => c.kind === 'encoder')
    .sort((a, b) => a.row - b.row || a.position - b.position);

/** The unit on whose encoders things lie along: the one that was asked on, or the first of those with the most. */
export function alongUnit(context: DeskContext, state: DeskState): Unit | undefined {
  const counts = context.desk.units.map((u) => [u, encodersOf(context, u).length] as const);
  const most = Math.max(0, ...counts.map(([, n]) => n));
  return (counts.find(([u, n]) => u.id === state.encoders.unit && n > 0) ??
    counts.find(([, n]) => n > 0 && n === most))?.[0];
}

const words = (parts: readonly (string | undefined)[]) => parts.filter(Boolean).join(' ');
const of = (page: number, pages: number) => (pages > 1 ? `${page + 1}/${pages}` : '');

/** What each strip of some places has of what lies across. */
function across(
  context: DeskContext,
  state: DeskState,
  slots: readonly (Id | null)[],
): readonly (Binding | null)[] {
  const kind = acrossOf(state.encoders.across);
  const { now } = choiceOf(context.session, kind, state.encoders);
  return slots.map((id) => {
    const faded = fadedOf(context.session, id);
    return faded ? kind.bind(context, faded, now?.id) : null;
  });
}
function acrossPage(context: DeskContext, state: DeskState): PageTold {
  const kind = acrossOf(state.encoders.across);
  const { all, at, now } = choiceOf(context.session, kind, state.encoders);
  const text = kind.choices
    ? now
      ? words([kind.word, of(at, all.length), now.name])
      : `${kind.word}: there is none`
    : kind.word;
  return { text, page: at, pages: Math.max(1, all.length), key: `across ${kind.id}`, strip: null };
}

/** Pages along one strip over so many places. */
function along(
  context: DeskContext,
  state: DeskState,
  encoders: number,
): { readonly bindings: readonly (Binding | null)[]; readonly page: PageTold } {
  const strip = subjectOf(context, state);
  const { encoders: e } = state;
  const kind = alongOf(e.mode === 'spread' ? 'insert' : e.along);
  const nothing = (text: string) => ({
    bindings: Array.from({ length: encoders }, () => null),
    page: { text, page: 0, pages: 1, key: `along ${kind.id}`, strip: strip?.id ?? null },
  });
  const focus = fadedOf(context.session, state.focus);
  if (!e.lock && focus && isVca(focus)) return nothing(`${focus.name || focus.id} is a VCA: a fader alone`);
  if (!strip) return nothing('Pick a strip');
  const pages = kind.pages(context, strip, e, encoders);
  if (typeof pages === 'string') return nothing(pages);
  const key = `along ${kind.pageKey?.(context, strip, e) ?? kind.id}`;
  const at = Math.max(0, Math.min(pages.length - 1, e.page[key] ?? 0));
  const now = pages[at] as Page;
  const insert = kind.id === 'insert' ? insertUnder(context, strip, e) : undefined;
  const what = insert ? processorOf(insert.type).shortName : kind.word;
  const head = words([
    e.mode === 'spread' ? 'Spread' : undefined,
    what,
    of(at, pages.length),
    nameOf(context.session, strip.id),
  ]);
  return {
    bindings: now.bindings,
    page: {
      text: now.name ? `${head}: ${now.name}` : head,
      page: at,
      pages: pages.length,
      key,
      strip: strip.id,
    },
  };
}

/** Each strip's first parameters in its own column. */
function columns(
  context: DeskContext,
  state: DeskState,
  slots: readonly (Id | null)[],
  rows: number,
): { readonly columns: readonly (readonly (Binding | null)[])[]; readonly page: PageTold } {
  const { encoders: e } = state;
  const kind = alongOf(e.along);
  const strips = slots.map((id) => (id === null ? undefined : stripMap(context.session).get(id)));
  const pages = strips.map((s): readonly Page[] => {
    if (!s) return [];
    // In a column a kind of insert comes up on every strip that has one, not the very insert of one of them.
    const own = { ...e, insert: { ...e.insert, id: null } };
    const found = kind.id === 'insert' ? insertUnder(context, s, own) : undefined;
    const list = found ? insertPages(s, found, rows) : kind.pages(context, s, own, rows);
    return typeof list === 'string' ? [] : list;
  });
  const most = Math.max(1, ...pages.map((p) => p.length));
  const key = `columns ${kind.id}${kind.id === 'insert' ? ` ${e.insert.type}` : ''}`;
  const at = Math.max(0, Math.min(most - 1, e.page[key] ?? 0));
  const what = kind.id === 'insert' ? processorOf(e.insert.type).shortName : kind.word;
  const name = pages.find((p) => p[at]?.name)?.[at]?.name;
  const head = words(['Columns', what, of(at, most)]);
  return {
    columns: pages.map((p) => p[at]?.bindings ?? []),
    page: { text: name ? `${head}: ${name}` : head, page: at, pages: most, key, strip: null },
  };
}

/** Places over which the encoders of a unit stand: its own faders, or for a unit without any the window from its left. */
function placesUnder(
  context: DeskContext,
  state: DeskState,
): Readonly<Record<string, readonly (Id | null)[]>> {
  const slots = slotsOf(context, state);
  const places: Record<string, readonly (Id | null)[]> = {};
  const taken = new Map<string, number>();
  for (const unit of context.desk.units) {
    const own = slots[unit.id];
    if (own?.length) {
      places[unit.id] = own;
      continue;
    }
    const group: Group | undefined = groupOf(context, unit.id);
    if (!group) continue;
    const from = taken.get(group.key) ?? 0;
    const list = encodersOf(context, unit);
    const across_ = state.encoders.mode === 'columns' ? columnsIn(list) : list.length;
    places[unit.id] = slotsOfGroup(context, state, group).slice(from, from + across_);
    taken.set(group.key, from + across_);
  }
  return places;
}
const columnsIn = (list: readonly EncoderControl[]) => Math.max(0, ...list.map((c) => c.position + 1));
const rowsIn = (list: readonly EncoderControl[]) => Math.max(0, ...list.map((c) => c.row + 1));

/** What every encoder and fader of the desk steers now. */
export const fieldOf = remembered(
  (context: DeskContext, state: DeskState) => [
    context.session,
    slotsOf(context, state),
    context.desk,
    state.encoders,
    state.flip,
    state.focus,
  ],
  allSteered,
);
function allSteered(context: DeskContext, state: DeskState): Field {
  const { mode } = state.encoders;
  const encoders: Record<string, Record<string, Binding | null>> = {};
  const faders: Record<string, readonly (Binding | null)[]> = {};
  const turnedAway = new Set<string>();
  const slots = slotsOf(context, state);
  const places = placesUnder(context, state);
  const level = (id: Id | null) => {
    const faded = fadedOf(context.session, id);
    return faded ? levelBinding(faded) : null;
  };
  const overStrips = (unit: Unit, list: readonly (Binding | null)[]) => {
    const own = encodersOf(context, unit);
    const withFaders = (slots[unit.id]?.length ?? 0) > 0;
    encoders[unit.id] = Object.fromEntries(
      own.map((c, i) => [
        c.id,
        withFaders ? (c.row === 0 ? (list[c.position] ?? null) : null) : (list[i] ?? null),
      ]),
    );
  };
  const under = (unit: Unit) => places[unit.id] ?? [];
  for (const unit of context.desk.units)
    overStrips(unit, state.flip ? under(unit).map(level) : across(context, state, under(unit)));
  let page = acrossPage(context, state);

  if (mode === 'columns') {
    for (const unit of context.desk.units) {
      const own = encodersOf(context, unit);
      const rows = rowsIn(own);
      if (rows < 2) continue;
      const found = columns(context, state, under(unit), rows);
      page = found.page;
      if (state.flip) continue;
      turnedAway.add(unit.id);
      encoders[unit.id] = Object.fromEntries(
        own.map((c) => [c.id, found.columns[c.position]?.[c.row] ?? null]),
      );
    }
    // Where no unit has rows, what would be in columns lies across: the first of each.
    if (turnedAway.size === 0) page = columns(context, state, Object.values(slots).flat(), 1).page;
  } else if (mode !== 'across') {
    const spread = mode === 'spread';
    const one = alongUnit(context, state);
    const units = spread ? context.desk.units : one ? [one] : [];
    const count = units.reduce((n, u) => n + encodersOf(context, u).length, 0);
    const found = along(context, state, Math.max(1, count));
    page = found.page;
    if (!state.flip) {
      let at = 0;
      for (const unit of units) {
        const own = encodersOf(context, unit);
        encoders[unit.id] = Object.fromEntries(own.map((c, i) => [c.id, found.bindings[at + i] ?? null]));
        at += own.length;
        if (own.length) turnedAway.add(unit.id);
      }
    }
  }

  for (const group of groupsOf(context)) {
    const ids = slotsOfGroup(context, state, group);
    let list: readonly (Binding | null)[];
    if (!state.flip) list = ids.map(level);
    else if (mode === 'across') list = across(context, state, ids);
    else if (mode === 'columns') {
      const found = columns(context, state, ids, 1);
      page = found.page;
      list = found.columns.map((c) => c[0] ?? null);
    } else {
      const found = along(context, state, Math.max(1, group.width));
      page = found.page;
      list = found.bindings;
    }
    let at = 0;
    for (const unit of group.units) {
      const width = slots[unit.id]?.length ?? 0;
      faders[unit.id] = list.slice(at, at + width);
      at += width;
    }
  }
  steerFixed(context, state, slots, places, encoders, faders);
  const marks = words([state.flip ? 'FLIP' : undefined, state.encoders.lock !== null ? 'LOCK' : undefined]);
  return { encoders, faders, turnedAway, page: { ...page, text: words([marks, page.text]) } };
}

/** Controls that always do one thing do it, whatever lies on the others. */
function steerFixed(
  context: DeskContext,
  state: DeskState,
  slots: ReturnType<typeof slotsOf>,
  places: ReturnType<typeof placesUnder>,
  encoders: Record<string, Record<string, Binding | null>>,
  faders: Record<string, readonly (Binding | null)[]>,
) {
  for (const unit of context.desk.units) {
    const fixed = (context.profile(unit.profile)?.controls ?? []).filter(
      (c): c is FaderControl | EncoderControl =>
        (c.kind === 'fader' || c.kind === 'encoder') && c.steers !== null,
    );
    if (fixed.length === 0) continue;
    const own = [...(faders[unit.id] ?? [])];
    for (const c of fixed) {
      const place = (c.kind === 'fader' ? slots : places)[unit.id]?.[c.position] ?? null;
      const binding = steeredBy(context, state, c.steers!, place);
      if (c.kind === 'fader') own[c.position] = binding;
      else encoders[unit.id]![c.id] = binding;
    }
    faders[unit.id] = Array.from(own, (b) => b ?? null);
  }
}

/** The state with another page of what the encoders steer, or another choice of what lies across. */
export function turnedPage(context: DeskContext, state: DeskState, way: 1 | -1): DeskState {
  const { page } = fieldOf(context, state);
  if (page.key.startsWith('across ')) return chosen(context, state, way);
  const next = Math.max(0, Math.min(page.pages - 1, page.page + way));
  return { ...state, encoders: { ...state.encoders, page: { ...state.encoders.page, [page.key]: next } } };
}
/** The next, or the one before, of what lies across: another return, another band. */
export function chosen(context: DeskContext, state: DeskState, way: 1 | -1): DeskState {
  const kind = acrossOf(state.encoders.across);
  const { all, at } = choiceOf(context.session, kind, state.encoders);
  const next = all[Math.max(0, Math.min(all.length - 1, at + way))];
  if (!next) return state;
  return {
    ...state,
    encoders: { ...state.encoders, choice: { ...state.encoders.choice, [kind.id]: next.id } },
  };
}
