import { apply } from '../edits/apply';
import type { Command } from '../edits/commands';
import type { Id } from '../base/units';
import { parseMidi } from '../wire/midi';
import { decode, type Heard } from './decode';
import { bindingDefault } from './defaults';
import type { Binding } from './encoders/binding';
import { levelBinding, levelKey } from './encoders/bindings';
import { fieldOf } from './encoders/field';
import { fadedOf } from './faded';
import { isHeld } from './keys/key';
import { giveMode, heldMode } from './keys/modes';
import { keyRole } from './keys/registry';
import { pickedUp } from './pickup';
import type { EncoderControl, FaderControl, KeyControl, SurfaceProfile } from './profile/profile';
import { reachOf } from './reaches/registry';
import {
  HOLD_MS,
  put,
  SHOWN_MS,
  unitState,
  withUnit,
  type DeskContext,
  type DeskState,
  type Grip,
  type SurfaceAction,
} from './state';
import { followed, groupsOf, listOf, roomOf, slotsOf, underHands, windowState, withWindow } from './window';

export interface Step {
  readonly actions: readonly SurfaceAction[];
  readonly state: DeskState;
}

const profileOf = (context: DeskContext, unit: string): SurfaceProfile | undefined => {
  const found = context.desk.units.find((u) => u.id === unit);
  return found && context.profile(found.profile);
};
/** What names the control under a fader. */
const keyUnder = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl,
): string | null => {
  if (state.flip) return fieldOf(context, state).faders[unit]?.[control.position]?.key ?? null;
  const id = slotsOf(context, state)[unit]?.[control.position] ?? null;
  return id === null ? null : levelKey(id);
};
const bindingUnder = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl | EncoderControl,
): Binding | null => {
  if (control.kind === 'fader' && !state.flip) {
    const faded = fadedOf(context.session, slotsOf(context, state)[unit]?.[control.position]);
    return faded ? levelBinding(faded) : null;
  }
  const field = fieldOf(context, state);
  return control.kind === 'fader'
    ? (field.faders[unit]?.[control.position] ?? null)
    : (field.encoders[unit]?.[control.id] ?? null);
};

/** A drag's name: what belongs to one insert is one drag, as an edit of it says all of its parameters. */
const dragOf = (unit: string, control: string, binding: Binding) =>
  binding.insert ? `insert ${binding.insert}` : `${unit} ${control} ${binding.key}`;

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

/** Hands under which something else has come keep what they did, and move nothing more until they let go. */
function letGoOfOthers(context: DeskContext, state: DeskState, actions: SurfaceAction[]): DeskState {
  let next = state;
  for (const unit of context.desk.units) {
    const profile = context.profile(unit.profile);
    for (const [id, grip] of Object.entries(unitState(next, unit.id).grips)) {
      if (grip.held) continue;
      const control = profile?.controls.find((c) => c.id === id);
      const now = control?.kind === 'fader' ? keyUnder(context, next, unit.id, control) : null;
      if (now === grip.target) continue;
      finish(context, grip, actions);
      next = withUnit(next, unit.id, {
        grips: { ...unitState(next, unit.id).grips, [id]: { ...grip, done: null, at: null, held: true } },
      });
    }
  }
  return next;
}
/** Keeps what a hand has done, where what it was done to is still there. */
function finish(context: DeskContext, { done, owner }: Grip, actions: SurfaceAction[]): void {
  if (!done) return;
  if (fadedOf(context.session, owner)) actions.push({ type: 'commit', ...done });
  else actions.push({ type: 'drop', drag: done.drag });
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

/** What the encoders steer is told again as soon as it is something else, whatever was told before. */
const pageAgain = (before: DeskState, after: DeskState): DeskState =>
  after.message !== null &&
  after.message === before.message &&
  (after.encoders !== before.encoders || after.flip !== before.flip)
    ? { ...after, message: null }
    : after;

function keyHeard(
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: KeyControl,
  on: boolean,
  actions: SurfaceAction[],
): DeskState {
  const role = keyRole(control.role);
  if (!role) return state;
  const { down } = unitState(state, unit);
  const was = down[control.id];
  const id = control.position === null ? null : (slotsOf(context, state)[unit]?.[control.position] ?? null);
  const key = {
    context,
    unit,
    faded: fadedOf(context.session, id) ?? null,
    user: control.user,
    actions,
  };
  // A key that says on and off by turns is pushed and let go each time.
  if (control.toggles) {
    const pushed = role.press?.({ ...key, state }) ?? state;
    return role.release?.({ ...key, state: pushed }) ?? pushed;
  }
  if (on) {
    if (was) return state;
    const held = withUnit(state, unit, {
      down: { ...down, [control.id]: { role: role.id, since: context.now, used: false, fired: false } },
    });
    return pageAgain(state, role.press?.({ ...key, state: held }) ?? held);
  }
  if (!was) return state;
  // What scopes and modes are held is looked at before this key goes up.
  const done = !was.used && !was.fired ? (role.release?.({ ...key, state }) ?? state) : state;
  return withUnit(done, unit, { down: put(unitState(done, unit).down, control.id, undefined) });
}

/** A hand on a control while *default* or a mode is held: what it does instead of taking hold. */
function instead(
  context: DeskContext,
  state: DeskState,
  unit: string,
  binding: Binding | null,
  actions: SurfaceAction[],
): DeskState | null {
  if (!binding) return null;
  const mode = heldMode(state);
  if (mode)
    return giveMode({ context, state, unit, faded: null, user: null, actions }, mode, [binding.owner]);
  return isHeld(state, 'default') ? bindingDefault(context, state, binding, actions) : null;
}

/** A value is shown for a moment after a hand has moved it. */
const shown = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: string,
  go: 'up' | 'down' | null = null,
): DeskState => ({
  ...state,
  shown: { ...state.shown, [`${unit} ${control}`]: { until: context.now + SHOWN_MS, go } },
});

function faderTouched(
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl,
  on: boolean,
  actions: SurfaceAction[],
): DeskState {
  const { grips } = unitState(state, unit);
  const was = grips[control.id];
  if (on) {
    if (was) return state;
    const binding = bindingUnder(context, state, unit, control);
    const other = instead(context, state, unit, binding, actions);
    const grip: Grip = {
      target: binding?.key ?? null,
      owner: binding?.owner ?? null,
      done: null,
      at: null,
      held: other !== null,
    };
    const next = other ?? state;
    return shown(
      context,
      withUnit(next, unit, { grips: { ...unitState(next, unit).grips, [control.id]: grip } }),
      unit,
      control.id,
    );
  }
  if (!was) return state;
  // What is kept is said anew of the session as it is: another hand may have moved another parameter of the same insert meanwhile.
  const binding = bindingUnder(context, state, unit, control);
  const anew =
    was.done && was.at !== null && control.out && binding?.key === was.target
      ? { ...was, done: { ...was.done, commands: binding.put(was.at / 16383) } }
      : was;
  finish(context, anew, actions);
  return shown(
    context,
    withUnit(state, unit, { grips: put(grips, control.id, undefined) }),
    unit,
    control.id,
  );
}

function faderMoved(
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl,
  value: number,
  actions: SurfaceAction[],
): DeskState {
  const u = unitState(state, unit);
  const from = u.heard[control.id];
  let next = withUnit(state, unit, { heard: { ...u.heard, [control.id]: value } });
  const grip = u.grips[control.id];
  const binding = bindingUnder(context, state, unit, control);
  if (!binding || grip?.held) return next;
  if (!grip) {
    const other = instead(context, next, unit, binding, actions);
    if (other) return other;
  }
  const put_ = moveTo(context, next, unit, control, binding, from ?? null, value, control.out !== null);
  next = put_.state;
  if (!put_.commands) return next;
  const drag = dragOf(unit, control.id, binding);
  const done = { commands: put_.commands, label: binding.label, drag };
  next = follow(context, next, binding, actions);
  if (!grip) {
    actions.push({ type: 'settle', ...done });
    return withUnit(next, unit, { moved: { ...unitState(next, unit).moved, [control.id]: context.now } });
  }
  actions.push({ type: 'live', ...done });
  return withUnit(next, unit, {
    grips: { ...unitState(next, unit).grips, [control.id]: { ...grip, done, at: value } },
  });
}

/** What a control that says its position does to what it steers: at once where a motor keeps it there, else as it takes hold. */
function moveTo(
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl | EncoderControl,
  binding: Binding,
  from: number | null,
  value: number,
  motor: boolean,
): { readonly state: DeskState; readonly commands: readonly Command[] | null } {
  if (motor) return { state: shown(context, state, unit, control.id), commands: binding.put(value / 16383) };
  const { caught } = unitState(state, unit);
  const own = context.desk.units.find((x) => x.id === unit)!;
  const pickup = own.pickup === 'profile' ? context.profile(own.profile)!.pickup : own.pickup;
  const hold = caught[control.id];
  const taken = pickedUp(
    pickup,
    from === null ? null : from / 16383,
    value / 16383,
    binding.travel,
    hold?.target === binding.key ? hold.at : null,
  );
  const next = shown(context, state, unit, control.id, taken.go);
  return {
    state: withUnit(next, unit, {
      caught: put(
        unitState(next, unit).caught,
        control.id,
        taken.caught && taken.to !== null ? { target: binding.key, at: taken.to } : undefined,
      ),
    }),
    commands: taken.to === null ? null : binding.put(taken.to),
  };
}

function encoderHeard(
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: EncoderControl,
  heard: Heard,
  actions: SurfaceAction[],
): DeskState {
  if (state.list !== null) return inList(context, state, heard, actions);
  const binding = bindingUnder(context, state, unit, control);
  const u = unitState(state, unit);
  if (heard.part !== 'in') {
    const on = heard.value > 0;
    const id = heard.part === 'push' ? `${control.id} push` : control.id;
    const held = withUnit(state, unit, { held: put(u.held, id, on ? true : undefined) });
    if (!binding || !on) return shown(context, held, unit, control.id);
    const other = instead(context, held, unit, binding, actions);
    if (other) return other;
    const next = follow(context, shown(context, held, unit, control.id), binding, actions);
    if (heard.part === 'push') {
      const pushed = isHeld(state, 'second') && binding.second ? binding.second : binding;
      actions.push({
        type: 'commit',
        commands: pushed.push(),
        label: pushed.label,
        drag: `${dragOf(unit, control.id, pushed)} push`,
      });
    }
    return next;
  }
  const at = { ...u.moved, [control.id]: context.now };
  const next = withUnit(state, unit, { moved: at });
  if (control.coding === 'position') {
    const before = u.heard[control.id];
    const placed = withUnit(next, unit, { heard: { ...u.heard, [control.id]: heard.value } });
    if (!binding) return placed;
    const other = instead(context, placed, unit, binding, actions);
    if (other) return other;
    const done = moveTo(context, placed, unit, control, binding, before ?? null, heard.value, false);
    if (done.commands)
      actions.push({
        type: 'settle',
        commands: done.commands,
        label: binding.label,
        drag: dragOf(unit, control.id, binding),
      });
    return follow(context, done.state, binding, actions);
  }
  if (!binding || heard.steps === 0) return next;
  const other = instead(context, next, unit, binding, actions);
  if (other) return other;
  // In the list of inserts a turn goes into one.
  if (
    state.encoders.mode === 'along' &&
    state.encoders.along === 'inserts' &&
    binding.insert &&
    !state.flip
  ) {
    const strip = context.session.strips.find((s) => s.id === binding.owner);
    const insert = strip?.inserts.find((i) => i.id === binding.insert);
    if (insert) {
      const into = { ...next.encoders, along: 'insert', insert: { type: insert.type, id: insert.id } };
      return follow(context, { ...next, encoders: into }, binding, actions);
    }
  }
  const turned = isHeld(state, 'second') && binding.second ? binding.second : binding;
  actions.push({
    type: 'settle',
    commands: turned.turn(heard.steps, isHeld(state, 'fine')),
    label: turned.label,
    drag: dragOf(unit, control.id, turned),
  });
  return follow(context, shown(context, next, unit, control.id), binding, actions);
}

/** In the list of recent sessions: a turn chooses, a push opens. */
function inList(context: DeskContext, state: DeskState, heard: Heard, actions: SurfaceAction[]): DeskState {
  if (heard.part === 'push' && heard.value > 0) {
    const chosen = context.recent[state.list ?? 0];
    if (chosen) actions.push({ type: 'open', session: chosen.id });
    return { ...state, list: null };
  }
  if (heard.part !== 'in' || heard.steps === 0) return state;
  const most = Math.max(0, context.recent.length - 1);
  return { ...state, list: Math.max(0, Math.min(most, (state.list ?? 0) + Math.sign(heard.steps))) };
}

/** The page follows the hands: the editor of the insert that they are on, once. */
function follow(
  context: DeskContext,
  state: DeskState,
  binding: Binding,
  actions: SurfaceAction[],
): DeskState {
  if (!context.desk.follows || !binding.insert) return state;
  const key = `${binding.owner} ${binding.insert}`;
  if (state.followed === key) return state;
  actions.push({ type: 'show', strip: binding.owner, insert: binding.insert });
  return { ...state, followed: key };
}

/** What lies in the windows, for the page: which unit's faders each strip lies under. */
export function marksOf(context: DeskContext, state: DeskState): ReadonlyMap<Id, readonly string[]> {
  const marks = new Map<Id, string[]>();
  for (const [unit, ids] of Object.entries(slotsOf(context, state)))
    for (const id of ids) if (id !== null) marks.set(id, [...(marks.get(id) ?? []), unit]);
  return marks;
}
