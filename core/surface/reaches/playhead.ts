import { deskOrder } from '../faded';
import { hasMaterial } from '../material';
import type { ReachKind } from './reach';

export const playhead: ReachKind = {
  id: 'playhead',
  word: 'NOW',
  name: 'Sounding at the playhead',
  about:
    'What has sound at the playhead. While it plays it goes with the song: what stays keeps its fader, what begins takes a free one, and nothing under a hand moves.',
  timed: true,
  follows: true,
  list: ({ session, material, transport: { position } }) =>
    deskOrder(session).filter((id) => hasMaterial(session, material, id, position, position)),
};
