import { reaches } from '../reaches/registry';
import type { ReachKind } from '../reaches/reach';
import { REACH_ALL, told, type DeskState } from '../state';
import { groupOf, listOf, windowState, withWindow } from '../window';
import { isHeld, litIf, served, type KeyEvent, type KeyRole } from './key';

export const reachRole = (id: string) => `reach${id[0]!.toUpperCase()}${id.slice(1)}`;

/** Shows a reach in the window of a unit; the one that is shown already leads back to what was before. */
export function showReach({ context, state, unit, actions }: KeyEvent, kind: ReachKind): DeskState {
  const group = groupOf(context, unit);
  if (!group) return state;
  const window = windowState(context, state, group.key);
  const remember = (id: string) => {
    if (group.key === '' && context.desk.reach !== id) actions.push({ type: 'desk', patch: { reach: id } });
  };
  const say = (next: DeskState) => {
    const { reach } = windowState(context, next, group.key);
    const { word, subject } = reaches.find((r) => r.id === reach.id)!;
    const count = listOf(context, next, group).length;
    const of = subject?.(context, reach);
    return told(next, `${word}${of ? ` ${of}` : ''}: ${count} strip${count === 1 ? '' : 's'}`, context.now);
  };
  const another =
    isHeld(state, 'second') && window.reach.id === kind.id ? kind.next?.(context, window.reach) : null;
  if (another !== null && another !== undefined) {
    const reach = { ...window.reach, subject: another };
    return say(served(withWindow(context, state, group.key, { reach, first: 0 }), 'second'));
  }
  if (window.reach.id === kind.id) {
    const back = window.back ?? { reach: REACH_ALL, first: 0 };
    remember(back.reach.id);
    return say(
      withWindow(context, state, group.key, {
        reach: back.reach,
        first: back.first,
        back: null,
        following: null,
      }),
    );
  }
  const begun = kind.begin?.(context, state) ?? { subject: null, ids: [] };
  if (typeof begun === 'string') return told(state, begun, context.now);
  remember(kind.id);
  return say(
    withWindow(context, state, group.key, {
      reach: { id: kind.id, ...begun },
      first: 0,
      // Of several reaches in a row, the key leads back to the one before; all is where it ends.
      back: { reach: window.reach, first: window.first },
      following: null,
    }),
  );
}

/** A key a reach; the same key goes back. */
export const reachKeys: readonly KeyRole[] = reaches.map((kind) => ({
  id: reachRole(kind.id),
  name: kind.name,
  word: kind.word,
  about: `${kind.about} The same key goes back.`,
  of: 'unit',
  press: (key) => showReach(key, kind),
  lit(context, state, { unit }) {
    const group = groupOf(context, unit);
    return litIf(group !== undefined && windowState(context, state, group.key).reach.id === kind.id);
  },
}));
