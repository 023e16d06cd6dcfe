import { nameOf } from '../../session/lookup';
import { reach } from '../../session/graph';
import { deskOrder, fadedOf, isVca } from '../faded';
import type { ReachKind } from './reach';

export const path: ReachKind = {
  id: 'path',
  word: 'PATH',
  name: 'Path of the picked strip',
  about: 'The picked strip and all that its signal passes through, by outs and sends, to the output.',
  begin({ session }, { focus }) {
    const strip = fadedOf(session, focus);
    if (!strip || isVca(strip)) return 'Pick a strip first';
    return { subject: strip.id, ids: [] };
  },
  list({ session }, { subject }) {
    const strip = fadedOf(session, subject);
    if (!strip) return [];
    const passed = reach(session, [strip.id], 'downstream', (e) => e.kind !== 'key' && e.on);
    return [strip.id, ...deskOrder(session).filter((id) => passed.has(id) && id !== strip.id)];
  },
  subject: ({ session }, { subject }) => (subject === null ? '' : nameOf(session, subject)),
};
