import { insertSwitch } from '../bindings';
import { inPages, type AlongKind } from './along';

export const inserts: AlongKind = {
  id: 'inserts',
  name: 'List of inserts',
  word: 'Inserts',
  about:
    'An insert an encoder, in the order of the signal: a push switches it on or off, a turn goes into it.',
  pages(_, strip, __, encoders) {
    if (strip.inserts.length === 0) return `${strip.name || strip.id} has no insert`;
    const order = [
      ...strip.inserts.filter((i) => i.place === 'pre'),
      ...strip.inserts.filter((i) => i.place === 'post'),
    ];
    return inPages(
      order.map((i) => insertSwitch(strip, i)),
      encoders,
    );
  },
};
