import { deskOrder } from '../faded';
import { hasMaterial } from '../material';
import type { ReachKind } from './reach';

export const material: ReachKind = {
  id: 'material',
  word: 'AUDIO',
  name: 'With material',
  about:
    'What has sound anywhere in the song, above -60 dBFS; a submix, return, output or VCA where what leads to it has.',
  list: ({ session, material: facts }) => deskOrder(session).filter((id) => hasMaterial(session, facts, id)),
};
