import type { Id } from '../base/units';
import type { Unit } from './desk/desk';
import { fadedOf, isVca } from './faded';
import { reachOf } from './reaches/registry';
import {
  RESTS_MS,
  REACH_ALL,
  unitState,
  WINDOW_START,
  type DeskContext,
  type DeskState,
  type Reach,
  type WindowState,
} from './state';
import { remembered, structureOf } from './structure';

/** Units that share one window: all of a joined desk, or one. */
export interface Group {
  /** '' of the joined units, else the unit's id. */
  readonly key: string;
  readonly units: readonly Unit[];
  /** Faders of all of them. */
  readonly width: number;
}

export const widthOf = (context: DeskContext, unit: Unit): number =>
  context.profile(unit.profile)?.width ?? 0;

/** The windows of a desk as it is: one while it is joined, one a unit with faders while it is apart. */
export const groupsOf = remembered(
  (context: DeskContext) => [context.desk, context.profile],
  (context: DeskContext): readonly Group[] => {
    const { units, joined } = context.desk;
    const group = (key: string, list: readonly Unit[]): Group => ({
      key,
      units: list,
      width: list.reduce((sum, u) => sum + widthOf(context, u), 0),
    });
    if (joined) return [group('', units)];
    return units.filter((u) => widthOf(context, u) > 0).map((u) => group(u.id, [u]));
  },
);
/** The group whose window a unit has; one without faders looks at the first. */
export const groupOf = (context: DeskContext, unit: string): Group | undefined => {
  const groups = groupsOf(context);
  return groups.find((g) => g.units.some((u) => u.id === unit)) ?? groups[0];
};

/** The window of a group; of a unit that has just been parted, the part of the joined one that lay under it. */
export function windowState(context: DeskContext, state: DeskState, key: string): WindowState {
  return state.windows[key] ?? firstWindow(context, state, key);
}
const firstWindow = remembered(
  (context: DeskContext, state: DeskState, key: string) => [
    context.desk,
    context.profile,
    state.windows,
    key,
  ],
  (context: DeskContext, state: DeskState, key: string): WindowState => {
    if (key === '') return { ...WINDOW_START, reach: { ...REACH_ALL, id: startReach(context.desk.reach) } };
    const joined = windowState(context, state, '');
    let before = 0;
    for (const u of context.desk.units) {
      if (u.id === key) break;
      before += widthOf(context, u);
    }
    return { ...joined, first: joined.first + before, back: null, following: null };
  },
);
/** A desk begins with the reach that it was left with, where that needs nothing to begin from. */
const startReach = (id: string) => (reachOf(id).begin ? 'all' : reachOf(id).id);

/** Pins of a group, from the left edge and from the right one, as many as fit. */
export function pinsOf(
  context: DeskContext,
  group: Group,
): { readonly left: readonly Id[]; readonly right: readonly Id[] } {
  const { session, desk } = context;
  const withFaders = desk.units.filter((u) => widthOf(context, u) > 0);
  const here = (side: 'left' | 'right') => {
    const edge = side === 'left' ? withFaders[0] : withFaders.at(-1);
    return session.pins
      .filter((p) => p.side === side)
      .filter((p) =>
        p.unit === null
          ? group.key === '' || group.key === edge?.id
          : group.key !== '' && p.unit === group.key,
      )
      .map((p) => p.strip)
      .filter((id) => {
        const f = fadedOf(session, id);
        return f && (isVca(f) || !f.hidden);
      });
  };
  const left = [...new Set(here('left'))].slice(0, group.width);
  const right = [...new Set(here('right'))]
    .filter((id) => !left.includes(id))
    .slice(0, group.width - left.length);
  return { left, right };
}

/** All that what a reach shows may depend on. */
const partsOfReach = (context: DeskContext, reach: Reach): readonly unknown[] => {
  const { session, material, transport } = context;
  return [
    structureOf(session),
    material,
    session.layouts,
    reach,
    ...(reachOf(reach.id).timed
      ? [transport.position, transport.loop?.start, transport.loop?.end, session.sections]
      : []),
  ];
};
/** What a group's window can show, without what is pinned. */
export const listOf = remembered(
  (context: DeskContext, state: DeskState, group: Group) => [
    ...partsOfReach(context, windowState(context, state, group.key).reach),
    context.session.pins,
    context.desk,
    group.key,
  ],
  (context: DeskContext, state: DeskState, group: Group): readonly Id[] => {
    const { reach } = windowState(context, state, group.key);
    const { left, right } = pinsOf(context, group);
    const pinned = new Set([...left, ...right]);
    return reachOf(reach.id)
      .list(context, reach)
      .filter((id) => !pinned.has(id));
  },
);

/** Faders of a group that are not pinned. */
export function roomOf(context: DeskContext, group: Group): number {
  const { left, right } = pinsOf(context, group);
  return group.width - left.length - right.length;
}

/** What lies under the faders of a group, from the left; null where nothing does. */
export function slotsOfGroup(context: DeskContext, state: DeskState, group: Group): readonly (Id | null)[] {
  const { left, right } = pinsOf(context, group);
  const room = group.width - left.length - right.length;
  const { first, following } = windowState(context, state, group.key);
  const list = following ?? listOf(context, state, group);
  const pinned = new Set([...left, ...right]);
  const middle = Array.from({ length: room }, (_, k) => {
    const id = list[first + k] ?? null;
    return id !== null && (pinned.has(id) || !fadedOf(context.session, id)) ? null : id;
  });
  return [...left, ...middle, ...[...right].reverse()];
}

/** What lies under the faders of each unit. */
export type Slots = Readonly<Record<string, readonly (Id | null)[]>>;
export const slotsOf = remembered(
  (context: DeskContext, state: DeskState) => [
    ...groupsOf(context).flatMap((g) => partsOfReach(context, windowState(context, state, g.key).reach)),
    context.session.pins,
    context.desk,
    context.profile,
    state.windows,
  ],
  (context: DeskContext, state: DeskState): Slots => {
    const slots: Record<string, readonly (Id | null)[]> = {};
    for (const group of groupsOf(context)) {
      const all = slotsOfGroup(context, state, group);
      let at = 0;
      for (const unit of group.units) {
        const width = widthOf(context, unit);
        slots[unit.id] = all.slice(at, at + width);
        at += width;
      }
    }
    return slots;
  },
);

export type Move = 'bank' | 'eight' | 'nudge' | 'end';
/**
 * Where a move of the window leads. A bank moves by the faders that are not pinned, or by eight where the desk says so; the last bank may
 * be part full, so that strips of a bank always stand at the same place; a nudge moves by one.
 */
export function movedFirst(
  context: DeskContext,
  state: DeskState,
  group: Group,
  move: Move,
  way: 1 | -1,
): number {
  const room = Math.max(1, roomOf(context, group));
  const window = windowState(context, state, group.key);
  const count = (window.following ?? listOf(context, state, group)).length;
  const most = Math.max(0, count - 1);
  const step = move === 'nudge' ? 1 : move === 'eight' || context.desk.bankBy === 'eight' ? 8 : room;
  const lastBank = Math.floor(most / step) * step;
  if (move === 'end') return way < 0 ? 0 : Math.floor(most / room) * room;
  const limit = move === 'nudge' ? most : Math.max(lastBank, Math.min(most, window.first));
  return Math.max(0, Math.min(limit, window.first + way * step));
}

export const withWindow = (
  context: DeskContext,
  state: DeskState,
  key: string,
  patch: Partial<WindowState>,
): DeskState => ({
  ...state,
  windows: { ...state.windows, [key]: { ...windowState(context, state, key), ...patch } },
});

/** What hands rest on in a group: it does not move while they do. */
export function underHands(context: DeskContext, state: DeskState, group: Group): ReadonlySet<Id> {
  const hands = new Set<Id>();
  for (const unit of group.units) {
    const { grips, moved } = unitState(state, unit.id);
    const slots = slotsOf(context, state)[unit.id] ?? [];
    for (const grip of Object.values(grips)) if (grip.owner && !grip.held) hands.add(grip.owner);
    for (const control of context.profile(unit.profile)?.controls ?? []) {
      const at = moved[control.id];
      const id = 'position' in control && control.position !== null ? slots[control.position] : null;
      if (id && at !== undefined && context.now - at < RESTS_MS) hands.add(id);
    }
  }
  return hands;
}

/**
 * What lies in a window that goes with the song: what stays keeps its place, what has ended leaves it free unless a hand is on
 * it, and what begins takes the first free place.
 */
export function followed(
  before: readonly (Id | null)[] | null,
  sounding: readonly Id[],
  hands: ReadonlySet<Id>,
): readonly (Id | null)[] {
  if (!before) return sounding;
  const now = new Set(sounding);
  const places = before.map((id) => (id !== null && (now.has(id) || hands.has(id)) ? id : null));
  const there = new Set(places);
  const coming = sounding.filter((id) => !there.has(id));
  const filled = places.map((id) => id ?? coming.shift() ?? null);
  const out = [...filled, ...coming];
  while (out.length && out.at(-1) === null) out.pop();
  return out.length === before.length && out.every((id, i) => id === before[i]) ? before : out;
}
