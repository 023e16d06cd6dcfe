import { fadedOf } from './faded';
import { keyRole } from './keys/registry';
import type { KeyControl } from './profile/profile';
import { put, unitState, withUnit, type DeskContext, type DeskState, type SurfaceAction } from './state';
import { slotsOf } from './window';

/** What the encoders steer is told again as soon as it is something else, whatever was told before. */
export const pageAgain = (before: DeskState, after: DeskState): DeskState =>
  after.message !== null &&
  after.message === before.message &&
  (after.encoders !== before.encoders || after.flip !== before.flip)
    ? { ...after, message: null }
    : after;

export function keyHeard(
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
    action: control.action,
    actions,
  };
  // A key that says on and off by turns is pushed and let go each time; so is one that says nothing when it is let go.
  if (control.toggles || (control.release === 'none' && on)) {
    const pushed = role.press?.({ ...key, state }) ?? state;
    return role.release?.({ ...key, state: pushed }) ?? pushed;
  }
  if (on && !(was && control.release === 'on')) {
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
