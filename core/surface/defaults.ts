import { levelBinding } from './encoders/bindings';
import type { Binding } from './encoders/binding';
import { fadedOf, type Faded } from './faded';
import { scopeOf, scopeServed, served, ask, countOf, type KeyEvent } from './keys/key';
import type { DeskContext, DeskState, SurfaceAction } from './state';

/** Brings the fader of a strip, or of all that the scope holds, to its default. */
export function withDefault(key: KeyEvent, faded: Faded): DeskState {
  const { context, state, actions } = key;
  const ids = scopeOf(context, state, faded);
  const commands = ids.flatMap((id) => {
    const f = fadedOf(context.session, id);
    return f ? levelBinding(f).toDefault() : [];
  });
  ask(actions, `default level ${countOf(context, ids)}`, commands);
  return scopeServed(served(state, 'default'));
}

/** Brings a control to its default; while the scope is widened, that of the level on all of it. */
export function bindingDefault(
  context: DeskContext,
  state: DeskState,
  binding: Binding,
  actions: SurfaceAction[],
): DeskState {
  const faded = fadedOf(context.session, binding.owner);
  if (faded && binding.key === levelBinding(faded).key)
    return withDefault({ context, state, unit: '', faded, user: null, actions }, faded);
  ask(actions, `default ${binding.label}`, binding.toDefault());
  return scopeServed(served(state, 'default'));
}
