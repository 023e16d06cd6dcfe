import type { Command } from '../edits/commands';
import { bindingDefault } from './defaults';
import type { Binding } from './encoders/binding';
import { levelBinding, levelKey } from './encoders/bindings';
import { fieldOf } from './encoders/field';
import { fadedOf } from './faded';
import { isHeld } from './keys/key';
import { giveMode, heldMode } from './keys/modes';
import { pickedUp } from './pickup';
import type { EncoderControl, FaderControl } from './profile/profile';
import {
  put,
  SHOWN_MS,
  unitState,
  withUnit,
  type DeskContext,
  type DeskState,
  type Grip,
  type SurfaceAction,
} from './state';
import { slotsOf } from './window';

/*
 * Hands on faders, and what all hands have in common: what lies under them, what they take hold of, what is kept when they let go.
 */

/** What names the control under a fader. */
const keyUnder = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl,
): string | null => {
  if (state.flip || control.steers)
    return fieldOf(context, state).faders[unit]?.[control.position]?.key ?? null;
  const id = slotsOf(context, state)[unit]?.[control.position] ?? null;
  return id === null ? null : levelKey(id);
};
export const bindingUnder = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: FaderControl | EncoderControl,
): Binding | null => {
  if (control.kind === 'fader' && !state.flip && !control.steers) {
    const faded = fadedOf(context.session, slotsOf(context, state)[unit]?.[control.position]);
    return faded ? levelBinding(faded) : null;
  }
  const field = fieldOf(context, state);
  return control.kind === 'fader'
    ? (field.faders[unit]?.[control.position] ?? null)
    : (field.encoders[unit]?.[control.id] ?? null);
};

/** A drag's name: what belongs to one insert is one drag, as an edit of it says all of its parameters. */
export const dragOf = (unit: string, control: string, binding: Binding) =>
  binding.insert ? `insert ${binding.insert}` : `${unit} ${control} ${binding.key}`;

/** Hands under which something else has come keep what they did, and move nothing more until they let go. */
export function letGoOfOthers(context: DeskContext, state: DeskState, actions: SurfaceAction[]): DeskState {
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
export function finish(context: DeskContext, { done, owner }: Grip, actions: SurfaceAction[]): void {
  if (!done) return;
  if (fadedOf(context.session, owner)) actions.push({ type: 'commit', ...done });
  else actions.push({ type: 'drop', drag: done.drag });
}

/** A hand on a control while *default* or a mode is held: what it does instead of taking hold. */
export function instead(
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
export const shown = (
  context: DeskContext,
  state: DeskState,
  unit: string,
  control: string,
  go: 'up' | 'down' | null = null,
): DeskState => ({
  ...state,
  shown: { ...state.shown, [`${unit} ${control}`]: { until: context.now + SHOWN_MS, go } },
});

export function faderTouched(
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

export function faderMoved(
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
export function moveTo(
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
        // Where the value went, which may be no finer than its control can be set.
        taken.caught && taken.to !== null ? { target: binding.key, at: binding.lands(taken.to) } : undefined,
      ),
    }),
    commands: taken.to === null ? null : binding.put(taken.to),
  };
}

/** The page follows the hands: the editor of the insert that they are on, once. */
export function follow(
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
