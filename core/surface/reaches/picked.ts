import { deskOrder } from '../faded';
import type { ReachKind } from './reach';

export const picked: ReachKind = {
  id: 'picked',
  word: 'PICKED',
  name: 'Picked',
  about:
    'What is picked. It goes with what is picked on the page; a pick key of the desk moves nothing away from under it.',
  picks: true,
  begin: (context) => (context.picked.length ? { subject: null, ids: context.picked } : 'Nothing is picked'),
  list({ session }, { ids }) {
    const chosen = new Set(ids);
    return deskOrder(session).filter((id) => chosen.has(id));
  },
};
