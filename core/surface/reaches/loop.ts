import { deskOrder } from '../faded';
import { hasMaterial } from '../material';
import type { ReachKind } from './reach';

export const loop: ReachKind = {
  id: 'loop',
  word: 'IN LOOP',
  name: 'With material in the loop',
  about:
    'What has sound within what is looped; without a loop, in the section at the playhead, or else in the whole song.',
  timed: true,
  list({ session, material, transport: { loop: looped, position } }) {
    const span = looped ??
      session.sections.find((s) => position >= s.start && position < s.end) ?? { start: 0, end: Infinity };
    // What only touches the loop's end is not in it.
    return deskOrder(session).filter((id) => hasMaterial(session, material, id, span.start, span.end - 1e-6));
  },
};
