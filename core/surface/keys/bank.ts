import { groupOf, listOf, movedFirst, roomOf, windowState, withWindow, type Move } from '../window';
import { litIf, type KeyRole } from './key';

const mover = (id: string, move: Move, way: 1 | -1, name: string, word: string, about: string): KeyRole => ({
  id,
  name,
  word,
  about,
  of: 'unit',
  press({ context, state, unit }) {
    const group = groupOf(context, unit);
    if (!group) return state;
    const first = movedFirst(context, state, group, move, way);
    const window = windowState(context, state, group.key);
    if (first === window.first && !window.following) return state;
    // A window that has gone with the song is put in order again when it is moved.
    return withWindow(context, state, group.key, { first, following: null });
  },
  lit(context, state, { unit }) {
    const group = groupOf(context, unit);
    if (!group) return 'off';
    const { first } = windowState(context, state, group.key);
    const more = listOf(context, state, group).length - first - roomOf(context, group);
    return litIf(way < 0 ? first > 0 : more > 0);
  },
});

/** Keys that move the window. */
export const bankKeys: readonly KeyRole[] = [
  mover(
    'bankLeft',
    'bank',
    -1,
    'Bank left',
    'BANK <',
    'Moves the window by its width, or by eight where the desk is set so.',
  ),
  mover(
    'bankRight',
    'bank',
    1,
    'Bank right',
    'BANK >',
    'The same to the right; the last bank may be part full.',
  ),
  mover('eightLeft', 'eight', -1, 'Eight left', '8 <', 'Moves the window by eight, however wide it is.'),
  mover('eightRight', 'eight', 1, 'Eight right', '8 >', 'The same to the right.'),
  mover('nudgeLeft', 'nudge', -1, 'Nudge left', 'NUDGE <', 'Moves the window by one.'),
  mover('nudgeRight', 'nudge', 1, 'Nudge right', 'NUDGE >', 'The same to the right.'),
  mover('toFirst', 'end', -1, 'To the first', 'FIRST', 'Jumps to the first strip.'),
  mover('toLast', 'end', 1, 'To the last', 'LAST', 'Jumps to the last bank.'),
];
