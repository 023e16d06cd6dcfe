import { isVca } from '../../faded';
import { panBinding } from '../bindings';
import type { AcrossKind } from './across';

export const pan: AcrossKind = {
  id: 'pan',
  name: 'Pan',
  word: 'Pan',
  about: 'The place in the stereo field.',
  bind: (_, faded) => (isVca(faded) ? null : panBinding(faded)),
};
