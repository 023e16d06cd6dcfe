import { nameOf } from '../../session/lookup';
import { deskOrder, fadedOf, isVca } from '../faded';
import type { ReachKind } from './reach';

export const fan: ReachKind = {
  id: 'fan',
  word: 'FAN',
  name: 'Fan of the picked strip',
  about:
    'The picked one, and what a VCA holds, what feeds a submix or output by its out, or what is sent to a return.',
  begin({ session }, { focus }) {
    const of = fadedOf(session, focus);
    if (!of) return 'Pick a VCA, submix or return';
    if (!isVca(of) && of.kind === 'source') return `${of.name || of.id} holds nothing`;
    return { subject: of.id, ids: [] };
  },
  list({ session }, { subject }) {
    const of = fadedOf(session, subject);
    if (!of) return [];
    const within = isVca(of)
      ? new Set(of.members)
      : new Set(
          session.strips
            .filter(
              (s) => (of.kind !== 'return' && s.out.to === of.id) || s.sends.some((x) => x.to === of.id),
            )
            .map((s) => s.id),
        );
    return [of.id, ...deskOrder(session).filter((id) => within.has(id) && id !== of.id)];
  },
  subject: ({ session }, { subject }) => (subject === null ? '' : nameOf(session, subject)),
};
