import { deskOrder } from '../faded';
import type { ReachKind } from './reach';

export const all: ReachKind = {
  id: 'all',
  word: 'ALL',
  name: 'All',
  about:
    'Every strip and VCA in the order of the Sheet, a VCA behind what it holds. Hidden strips are never shown.',
  list: ({ session }) => deskOrder(session),
};
