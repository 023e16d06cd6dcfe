import { levelBinding } from '../bindings';
import type { AcrossKind } from './across';

export const level: AcrossKind = {
  id: 'level',
  name: 'Level',
  word: 'Level',
  about: 'The fader. It is what the encoders steer while the faders are flipped to something else.',
  bind: (_, faded) => levelBinding(faded),
};
