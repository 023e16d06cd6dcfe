import { sendBinding } from '../bindings';
import { inPages, type AlongKind } from './along';

export const sends: AlongKind = {
  id: 'sends',
  name: 'Sends',
  word: 'Sends',
  about: "The strip's sends, one an encoder; with *second* held their pans, and a push switches them.",
  pages({ session }, strip, _, encoders) {
    if (strip.sends.length === 0) return `${strip.name || strip.id} has no send`;
    return inPages(
      strip.sends.map((x) => sendBinding(session, strip, x)),
      encoders,
    );
  },
};
