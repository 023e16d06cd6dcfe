import { stripMap } from '../../session/lookup';
import type { Strip } from '../../session/types';
import type { DeskContext, DeskState } from '../state';
import { groupsOf, slotsOfGroup } from '../window';

/** The strip along which the encoders go: the one they are locked to, else the one picked last, else the first of the window. */
export function subjectOf(context: DeskContext, state: DeskState): Strip | null {
  const strips = stripMap(context.session);
  for (const id of [state.encoders.lock, state.focus]) {
    const found = id === null ? undefined : strips.get(id);
    if (found) return found;
  }
  for (const group of groupsOf(context))
    for (const id of slotsOfGroup(context, state, group)) {
      const found = id === null ? undefined : strips.get(id);
      if (found) return found;
    }
  return null;
}
