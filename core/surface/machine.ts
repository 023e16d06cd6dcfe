import { apply } from '../edits/apply';
import type { Id } from '../base/units';
import { parseMidi } from '../wire/midi';
import { decode, type Heard } from './decode';
import { fadedOf } from './faded';
import { keyRole } from './keys/registry';
import type { SurfaceProfile } from './profile/profile';
import { reachOf } from './reaches/registry';
import {
  HOLD_MS,
  put,
  unitState,
  withUnit,
  type DeskContext,
  type DeskState,
  type SurfaceAction,
} from './state';
import { followed, groupsOf, listOf, roomOf, slotsOf, underHands, windowState, withWindow } from './window';
import { letGoOfOthers, finish, faderTouched, faderMoved } from './hands';
import { encoderHeard } from './turns';
import { pageAgain, keyHeard } from './presses';

export interface Step {
  readonly actions: readonly SurfaceAction[];
  readonly state: DeskState;
}

const profileOf = (context: DeskContext, unit: string): SurfaceProfile | undefined => {
  const found = context.desk.units.find((u) => u.id === unit);
  return found && context.profile(found.profile);
};
/**
 * Brings the state to what has become of the world: picks, strips that are gone, windows that go with the song, hands under which
 * something else has come. To be called whenever the session, the picks or the song have moved.
 */
export function attend(context: DeskContext, state: DeskState): Step {
  const actions: SurfaceAction[] = [];
  let next = state;
  const same = (a: readonly Id[], b: readonly Id[]) =>
    a.length === b.length && a.every((id, i) => id === b[i]);
  if (!same(next.seen, context.picked)) {
    const own = next.asked !== null && same([...next.asked].sort(), [...context.picked].sort());
    next = { ...next, seen: context.picked, asked: null };
    if (!own) {
      next = { ...next, focus: context.focus ?? context.picked.at(-1) ?? null };
      for (const group of groupsOf(context)) {
        const { reach } = windowState(context, next, group.key);
        if (reachOf(reach.id).picks && context.picked.length)
          next = withWindow(context, next, group.key, { reach: { ...reach, ids: context.picked } });
      }
    }
  }
  if (next.focus !== null && !fadedOf(context.session, next.focus)) next = { ...next, focus: null };
  if (next.encoders.lock !== null && !fadedOf(context.session, next.encoders.lock))
    next = { ...next, encoders: { ...next.encoders, lock: null } };
  for (const group of groupsOf(context)) {
    const window = windowState(context, next, group.key);
    const list = listOf(context, next, group);
    if (reachOf(window.reach.id).follows) {
      const following = followed(window.following, list, underHands(context, next, group));
      if (following !== window.following) next = withWindow(context, next, group.key, { following });
    }
    // Where strips have gone, the last bank is shown instead of nothing.
    const count = (windowState(context, next, group.key).following ?? list).length;
    const room = Math.max(1, roomOf(context, group));
    if (window.first > 0 && window.first >= count)
      next = withWindow(context, next, group.key, {
        first: Math.floor(Math.max(0, count - 1) / room) * room,
      });
  }
  next = letGoOfOthers(context, next, actions);
  return { actions, state: next };
}

/**
 * Takes a piece of MIDI from a unit: (world, state, bytes in) gives (actions, state). When the actions have been carried out, of however
 * many pieces, `feedback` brings the devices to what has become of the session.
 */
export function receive(context: DeskContext, state: DeskState, unit: string, bytes: Iterable<number>): Step {
  const profile = profileOf(context, unit);
  if (!profile) return { actions: [], state };
  const parsed = parseMidi(unitState(state, unit).parser, bytes);
  let heardAs = { ...unitState(state, unit), parser: parsed.state };
  const all: Heard[] = [];
  for (const message of parsed.messages) {
    const found = decode(profile, heardAs, message);
    heardAs = found.unit;
    if (found.heard) all.push(found.heard);
  }
  let next = withUnit(state, unit, heardAs);
  const actions: SurfaceAction[] = [];
  let world = context;
  let stale = true;
  const heard = all.length > MANY ? lastOfEach(all) : all;
  for (const [i, one] of heard.entries()) {
    if (stale) {
      const before = attend(world, next);
      actions.push(...before.actions);
      next = before.state;
    }
    const own: SurfaceAction[] = [];
    const was = next;
    next = obey(world, was, unit, one, own);
    // A move of a hand brings nothing else under any hand.
    stale =
      next.windows !== was.windows ||
      next.encoders !== was.encoders ||
      next.flip !== was.flip ||
      next.focus !== was.focus ||
      own.some((a) => a.type === 'desk' || a.type === 'pick');
    if (stale) {
      const after = attend(world, next);
      next = after.state;
      own.push(...after.actions);
    }
    actions.push(...own);
    // What comes next in the same piece adds to what this one did.
    if (i < heard.length - 1) world = withActions(world, own);
  }
  return { actions, state: next };
}
/** Messages in one piece of which only the last of each fader counts: more than hands make between two looks at them. */
const MANY = 48;
/** Of moves of a fader with nothing but moves of faders between them, the last: where it stands is all that counts. */
function lastOfEach(all: readonly Heard[]): readonly Heard[] {
  const later = new Set<string>();
  return [...all]
    .reverse()
    .filter(({ control, part }) => {
      if (control.kind !== 'fader' || part !== 'in') {
        later.clear();
        return true;
      }
      if (later.has(control.id)) return false;
      later.add(control.id);
      return true;
    })
    .reverse();
}
/** The world with what is asked for already done. */
function withActions(context: DeskContext, actions: readonly SurfaceAction[]): DeskContext {
  let { session, desk, picked, focus } = context;
  for (const a of actions) {
    if (a.type === 'desk') desk = { ...desk, ...a.patch };
    if (a.type === 'pick') [picked, focus] = [a.strips, a.strips.at(-1) ?? null];
    if (a.type !== 'live' && a.type !== 'settle' && a.type !== 'commit') continue;
    try {
      session = apply(session, a.commands).session;
    } catch {
      // What the session refuses is told where it is carried out.
    }
  }
  return { ...context, session, desk, picked, focus };
}

/** Time passes: keys that are held long enough do what they do then. */
export function tick(context: DeskContext, state: DeskState): Step {
  const first = attend(context, state);
  const actions = [...first.actions];
  let next = first.state;
  for (const unit of Object.keys(next.units))
    for (const [id, down] of Object.entries(unitState(next, unit).down)) {
      const role = keyRole(down.role);
      if (!role?.hold || down.fired || down.used || context.now - down.since < HOLD_MS) continue;
      next = withUnit(next, unit, {
        down: { ...unitState(next, unit).down, [id]: { ...down, fired: true } },
      });
      next = role.hold({ context, state: next, unit, faded: null, user: null, actions });
    }
  return { actions, state: next };
}

/** A unit has gone away: what hands were doing on it is kept, and nothing is taken to be held any more. */
export function gone(context: DeskContext, state: DeskState, unit: string): Step {
  const actions: SurfaceAction[] = [];
  for (const grip of Object.values(unitState(state, unit).grips)) finish(context, grip, actions);
  return { actions, state: { ...state, units: put(state.units, unit, undefined) } };
}

/** Does what a key of a role does, as the page asks for it: pushed on a unit, and let go. */
export function pressed(context: DeskContext, state: DeskState, role: string, unit?: string): Step {
  const found = keyRole(role);
  const on = unit ?? context.desk.units[0]?.id;
  if (!found || on === undefined || found.of === 'strip') return { actions: [], state };
  const actions: SurfaceAction[] = [];
  const key = { context, unit: on, faded: null, user: null, actions };
  const down = found.press?.({ ...key, state }) ?? state;
  const next = pageAgain(state, found.release?.({ ...key, state: down }) ?? down);
  const after = attend(withActions(context, actions), next);
  return { actions: [...actions, ...after.actions], state: after.state };
}

function obey(
  context: DeskContext,
  state: DeskState,
  unit: string,
  heard: Heard,
  actions: SurfaceAction[],
): DeskState {
  const { control } = heard;
  switch (control.kind) {
    case 'key':
      return keyHeard(context, state, unit, control, heard.value > 0, actions);
    case 'fader':
      return heard.part === 'touch'
        ? faderTouched(context, state, unit, control, heard.value > 0, actions)
        : faderMoved(context, state, unit, control, heard.value, actions);
    case 'encoder':
      return encoderHeard(context, state, unit, control, heard, actions);
    default:
      return state;
  }
}

/** What lies in the windows, for the page: which unit's faders each strip lies under. */
export function marksOf(context: DeskContext, state: DeskState): ReadonlyMap<Id, readonly string[]> {
  const marks = new Map<Id, string[]>();
  for (const [unit, ids] of Object.entries(slotsOf(context, state)))
    for (const id of ids) if (id !== null) marks.set(id, [...(marks.get(id) ?? []), unit]);
  return marks;
}
