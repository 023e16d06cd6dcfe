import type { Session } from '../../session/types';
import { heldBy } from '../../groups/vca';
import { deskOrder, fadedOf, isVca } from '../faded';
import type { ReachKind } from './reach';

const familiesOf = (session: Session) => [
  ...new Set(session.strips.flatMap((s) => (s.hidden || !s.family ? [] : [s.family]))),
];

export const family: ReachKind = {
  id: 'family',
  word: 'FAMILY',
  name: 'Family of the picked strip',
  about:
    'The family of the picked strip, or the first; with *second* held, the next family. A VCA is shown where all that it holds is of the family.',
  begin({ session }, { focus }) {
    const of = fadedOf(session, focus);
    const own = of && (isVca(of) ? heldBy(session, of.id)[0]?.family : of.family);
    const name = own || familiesOf(session)[0];
    return name ? { subject: name, ids: [] } : 'No strip has a family';
  },
  next({ session }, { subject }) {
    const all = familiesOf(session);
    return all[(all.indexOf(subject ?? '') + 1) % Math.max(1, all.length)] ?? null;
  },
  list({ session }, { subject }) {
    return deskOrder(session).filter((id) => {
      const of = fadedOf(session, id)!;
      if (!isVca(of)) return of.family === subject;
      const held = heldBy(session, of.id);
      return held.length > 0 && held.every((s) => s.family === subject);
    });
  },
  subject: (_, { subject }) => subject ?? '',
};
