import { type Heard } from './decode';
import { isHeld } from './keys/key';
import type { EncoderControl } from './profile/profile';
import { put, unitState, withUnit, type DeskContext, type DeskState, type SurfaceAction } from './state';
import { bindingUnder, dragOf, instead, shown, moveTo, follow } from './hands';

/** What a hand on an encoder does: touched, pushed, turned. */
export function encoderHeard(
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
