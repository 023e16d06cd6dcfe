import { isVca } from '../../faded';
import { widthBinding } from '../bindings';
import type { AcrossKind } from './across';

export const width: AcrossKind = {
  id: 'width',
  name: 'Width',
  word: 'Width',
  about: 'How wide a stereo strip is; the ring opens both ways.',
  bind: (_, faded) => (isVca(faded) || faded.channels === 1 ? null : widthBinding(faded)),
};
