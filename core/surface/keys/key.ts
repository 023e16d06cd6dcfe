import type { Id } from '../../base/units';
import type { Command } from '../../edits/commands';
import { stripMap } from '../../session/lookup';
import { deskOrder, type Faded } from '../faded';
import type { Lit } from '../marks';
import {
  unitState,
  withUnit,
  type DeskContext,
  type DeskState,
  type Down,
  type SurfaceAction,
} from '../state';

/** A key that goes down or up: where it is, and what is under it. */
export interface KeyEvent {
  readonly context: DeskContext;
  readonly state: DeskState;
  readonly unit: string;
  /** What lies over a key of a strip; null where nothing does, and of a key of the whole unit. */
  readonly faded: Faded | null;
  /** The number of a user key. */
  readonly user: number | null;
  /** The palette's action that a key of the role `action` does. */
  readonly action?: string | null;
  /** What the key asks for is put here. */
  readonly actions: SurfaceAction[];
}

/**
 * What a key can do. Its place in the profile's schema, its line in docs/surfaces.md, its light and its word on a display follow from
 * this: a new one is a file with its description, and a line in `registry.ts`.
 */
export interface KeyRole {
  readonly id: string;
  readonly name: string;
  /** As it is written on a key, or told on a display. */
  readonly word: string;
  readonly about: string;
  /** Whether there is one for each strip, or one for the unit. */
  readonly of: 'strip' | 'unit';
  press?(key: KeyEvent): DeskState;
  /** What letting it go does, where nothing was done with it while it was held. */
  release?(key: KeyEvent): DeskState;
  /** What holding it for a second does. */
  hold?(key: KeyEvent): DeskState;
  lit(
    context: DeskContext,
    state: DeskState,
    where: { readonly unit: string; readonly faded: Faded | null },
  ): Lit;
}

export const litIf = (yes: boolean): Lit => (yes ? 'on' : 'off');

/** Whether a key of a role is held, on any unit. */
export const isHeld = (state: DeskState, role: string): boolean =>
  Object.values(state.units).some((u) => Object.values(u.down).some((d) => d.role === role));
/** The key, of roles that begin so, that was held first. */
export function heldRole(state: DeskState, roles: readonly string[]): string | null {
  let first: Down | null = null;
  for (const u of Object.values(state.units))
    for (const d of Object.values(u.down))
      if (roles.includes(d.role) && (!first || d.since < first.since)) first = d;
  return first?.role ?? null;
}
/** The state after a held key has served: letting it go does nothing more. */
export function served(state: DeskState, role: string): DeskState {
  let next = state;
  for (const unit of Object.keys(state.units)) {
    const { down } = unitState(next, unit);
    if (!Object.values(down).some((d) => d.role === role && !d.used)) continue;
    next = withUnit(next, unit, {
      down: Object.fromEntries(
        Object.entries(down).map(([id, d]) => [id, d.role === role ? { ...d, used: true } : d]),
      ),
    });
  }
  return next;
}

/**
 * What a mode, mute or default acts on: this one; all that is picked while *picked* is held; everything while *all* is.
 * (Common practice, no published source.)
 */
export function scopeOf(context: DeskContext, state: DeskState, own: Faded | null): readonly Id[] {
  if (isHeld(state, 'all')) return deskOrder(context.session);
  if (isHeld(state, 'picked') && context.picked.length) return context.picked;
  return own ? [own.id] : [];
}
/** The state with the keys that widen a scope having served. */
export const scopeServed = (state: DeskState): DeskState => served(served(state, 'all'), 'picked');

/** The edit that sets a flag of strips and VCAs, where it is another. */
export function setFlag(
  context: DeskContext,
  ids: readonly Id[],
  flag: 'mute' | 'solo',
  to: boolean,
): readonly Command[] {
  const strips = stripMap(context.session);
  return ids.flatMap((id): readonly Command[] => {
    const strip = strips.get(id);
    if (strip) return strip[flag] === to ? [] : [{ type: 'strip.set', id, patch: { [flag]: to } }];
    const vca = context.session.vcas.find((v) => v.id === id);
    return vca && vca[flag] !== to ? [{ type: 'vca.set', id, patch: { [flag]: to } }] : [];
  });
}
/** Puts an edit among the actions, where there is any. */
export function ask(
  actions: SurfaceAction[],
  label: string,
  commands: readonly Command[],
  drag = 'key',
): void {
  if (commands.length) actions.push({ type: 'commit', commands, label, drag });
}
export const countOf = (context: DeskContext, ids: readonly Id[]): string => {
  const [first] = ids;
  const one = ids.length === 1 && first !== undefined ? first : null;
  if (one === null) return `${ids.length} strips`;
  return (
    stripMap(context.session).get(one)?.name ?? context.session.vcas.find((v) => v.id === one)?.name ?? one
  );
};
