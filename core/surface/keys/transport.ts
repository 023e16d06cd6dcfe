import type { DeskContext } from '../state';
import { litIf, type KeyRole } from './key';

const plain = (
  id: 'play' | 'stop' | 'loop' | 'undo' | 'redo',
  name: string,
  word: string,
  about: string,
  lit: (context: DeskContext) => boolean,
): KeyRole => ({
  id,
  name,
  word,
  about,
  of: 'unit',
  press({ state, actions }) {
    actions.push({ type: id });
    return state;
  },
  lit: (context) => litIf(lit(context)),
});
/** Playing, and taking back. */
export const transportKeys: readonly KeyRole[] = [
  plain('play', 'Play', 'PLAY', 'Plays from where the song stands.', ({ transport }) => transport.rolling),
  plain('stop', 'Stop', 'STOP', 'Stops.', ({ transport }) => !transport.rolling),
  plain(
    'loop',
    'Loop',
    'LOOP',
    'Loops the section at the playhead, or what was looped last; again, no more.',
    ({ transport }) => transport.looping,
  ),
  plain('undo', 'Undo', 'UNDO', 'Takes the last edit back.', ({ undo }) => undo),
  plain('redo', 'Redo', 'REDO', 'Does again what was taken back.', ({ redo }) => redo),
];
