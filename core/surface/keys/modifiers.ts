import { isHeld, litIf, type KeyRole } from './key';

const modifier = (id: string, name: string, word: string, about: string): KeyRole => ({
  id,
  name,
  word,
  about,
  of: 'unit',
  lit: (_, state) => litIf(isHeld(state, id)),
});
/** Keys that change what others do while they are held. */
export const modifiers: readonly KeyRole[] = [
  modifier(
    'picked',
    'Picked',
    'ON PICKED',
    'Held: modes, mutes, solos and defaults act on all that is picked.',
  ),
  modifier(
    'all',
    'All',
    'ON ALL',
    'Held: modes, mutes, solos and defaults act on everything that is not hidden.',
  ),
  modifier(
    'default',
    'Default',
    'DEFAULT',
    'Held: a fader, encoder or pick key that is touched goes to its default.',
  ),
  modifier('fine', 'Fine', 'FINE', 'Held: encoders turn ten times finer.'),
  modifier(
    'second',
    'Second',
    '2ND',
    'Held: the second thing of each encoder, such as the Q beside a frequency; the next family or layout; picks add.',
  ),
];
