import { setMode } from '../../automation/edit';
import type { Id } from '../../base/units';
import { AUTOMATION_MODES } from '../../session/fields/tables';
import { MODE_TEXTS, nextMode } from '../../session/mode';
import type { AutomationMode } from '../../session/types';
import { fadedOf } from '../faded';
import { markLit, stripMark } from '../marks';
import { told, type DeskState } from '../state';
import {
  ask,
  countOf,
  heldRole,
  isHeld,
  litIf,
  scopeOf,
  scopeServed,
  served,
  type KeyEvent,
  type KeyRole,
} from './key';

const roleOf = (mode: AutomationMode) => `mode${mode[0]!.toUpperCase()}${mode.slice(1)}`;
const ROLES = AUTOMATION_MODES.map(roleOf);

/** The mode whose key is held, if any. */
export function heldMode(state: DeskState): AutomationMode | null {
  const role = heldRole(state, ROLES);
  return role === null ? null : AUTOMATION_MODES[ROLES.indexOf(role)]!;
}

/** Gives strips and VCAs a mode; a mode key that is held has served. */
export function giveMode(
  { context, state, actions }: KeyEvent,
  mode: AutomationMode,
  ids: readonly Id[],
): DeskState {
  const others = ids.filter((id) => {
    const now = fadedOf(context.session, id)?.automation;
    return now !== undefined && now !== mode;
  });
  ask(actions, `automation ${mode}, ${countOf(context, ids)}`, setMode(context.session, others, mode));
  const next = scopeServed(served(state, roleOf(mode)));
  return told(next, `${mode.toUpperCase()}: ${countOf(context, ids)}`, context.now);
}

/** Steps through the modes: while it plays, write is passed by. */
export const mode: KeyRole = {
  id: 'mode',
  name: 'Automation mode',
  word: 'AUTO',
  about:
    'Steps the strip to its next automation mode; with *picked* or *all* held, those go where this one goes. While it plays, write is passed by. Its light: faint for read, bright for armed, blinking while it is written.',
  of: 'strip',
  press(key) {
    const { context, state, faded } = key;
    if (!faded) return state;
    const held = heldMode(state);
    const to = held ?? nextMode(faded.automation, context.transport.rolling);
    return giveMode(key, to, scopeOf(context, state, faded));
  },
  lit: (context, _, { faded }) => (faded ? markLit(stripMark(context, faded)) : 'off'),
};

/** A key a mode: held, what is touched or picked gets it; by itself, what is in scope, else the strip picked last. */
export const modeKeys: readonly KeyRole[] = AUTOMATION_MODES.map((m) => ({
  id: roleOf(m),
  name: `Mode ${m}`,
  word: m.toUpperCase(),
  about: `${MODE_TEXTS[m]}. Held while strips, or their pick keys, are touched, it gives them this mode; pushed by itself, the strip picked last, or with *picked* or *all* held, those.`,
  of: 'unit',
  release(key) {
    const { context, state } = key;
    const ids = scopeOf(context, state, fadedOf(context.session, state.focus) ?? null);
    if (ids.length === 0) return told(state, `Hold ${m.toUpperCase()} and touch strips`, context.now);
    return giveMode(key, m, ids);
  },
  lit(context, state) {
    if (isHeld(state, roleOf(m))) return 'on';
    return litIf(fadedOf(context.session, state.focus)?.automation === m);
  },
}));

/** Trim on, and off again to the mode that was before. */
export const trimKey: KeyRole = {
  id: 'trimOn',
  name: 'Trim on and off',
  word: 'TRIM +-',
  about:
    'Puts the strip picked last, or with *picked* or *all* held those, to trim; again, each back to the mode that it had.',
  of: 'unit',
  press(key) {
    const { context, state } = key;
    const ids = scopeOf(context, state, fadedOf(context.session, state.focus) ?? null);
    const list = ids.flatMap((id) => fadedOf(context.session, id) ?? []);
    if (list.length === 0) return told(state, 'Pick a strip first', context.now);
    if (!list.every((f) => f.automation === 'trim')) {
      const before = { ...state.beforeTrim };
      for (const f of list) if (f.automation !== 'trim') before[f.id] = f.automation;
      return giveMode({ ...key, state: { ...state, beforeTrim: before } }, 'trim', ids);
    }
    // Write is not come back to by a key that is pushed twice.
    const back = (id: Id): AutomationMode => {
      const was = state.beforeTrim[id] ?? 'read';
      return was === 'write' && context.transport.rolling ? 'touch' : was;
    };
    const commands = list.flatMap((f) => setMode(context.session, [f.id], back(f.id)));
    ask(key.actions, `trim off, ${countOf(context, ids)}`, commands);
    const beforeTrim = Object.fromEntries(
      Object.entries(state.beforeTrim).filter(([id]) => !ids.includes(id)),
    );
    return told(scopeServed({ ...state, beforeTrim }), `TRIM OFF: ${countOf(context, ids)}`, context.now);
  },
  lit: (context, state) => litIf(fadedOf(context.session, state.focus)?.automation === 'trim'),
};
