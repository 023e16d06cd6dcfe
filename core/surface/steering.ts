import { processorOf } from '../processors/registry';
import { monitoredOutput } from '../session/lookup';
import type { Id } from '../base/units';
import { acrossOf, choiceOf } from './encoders/across/registry';
import type { Binding } from './encoders/binding';
import { parameterBinding } from './encoders/bindings';
import { firstOf } from './encoders/firstOf';
import { subjectOf } from './encoders/subject';
import { fadedOf, isVca, type Faded } from './faded';
import type { Steers } from './profile/profile';
import type { DeskContext, DeskState } from './state';

/** The strip or VCA of which a control always does its one thing. */
function ownerOf(
  context: DeskContext,
  state: DeskState,
  { of, strip }: Steers,
  place: Id | null,
): Faded | undefined {
  const { session } = context;
  switch (of) {
    case 'place':
      return fadedOf(session, place);
    case 'picked':
      return fadedOf(session, state.encoders.lock ?? state.focus) ?? subjectOf(context, state) ?? undefined;
    case 'main':
      return monitoredOutput(session);
    case 'strip':
      return fadedOf(session, strip);
  }
}

/**
 * What a control that always does one thing steers now.
 * @param place what lies in the window at its place
 * @returns null where there is no such thing
 */
export function steeredBy(
  context: DeskContext,
  state: DeskState,
  steers: Steers,
  place: Id | null,
): Binding | null {
  const faded = ownerOf(context, state, steers, place);
  if (!faded) return null;
  if (steers.type === 'across') {
    const kind = acrossOf(steers.what);
    const { all, now } = choiceOf(context.session, kind, state.encoders);
    return kind.bind(context, faded, (steers.nth === null ? now : all[steers.nth])?.id);
  }
  if (isVca(faded)) return null;
  const insert = firstOf(context.desk, faded, steers.processor);
  const parameter = insert && processorOf(insert.type).parameters.find((p) => p.id === steers.parameter);
  return insert && parameter ? parameterBinding(faded, insert, parameter) : null;
}
