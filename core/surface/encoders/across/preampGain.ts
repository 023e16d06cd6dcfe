import { isVca } from '../../faded';
import { gainBinding } from '../bindings';
import type { AcrossKind } from './across';

export const preampGain: AcrossKind = {
  id: 'preampGain',
  name: 'Preamplifier gain',
  word: 'Preamp',
  about: 'The gain of the remote preamplifier that a source comes by, in the steps of the device.',
  bind: (_, faded) => (isVca(faded) ? null : gainBinding(faded)),
};
