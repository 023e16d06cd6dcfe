import { isVca } from '../../faded';
import { trimBinding } from '../bindings';
import type { AcrossKind } from './across';

export const trim: AcrossKind = {
  id: 'trim',
  name: 'Trim',
  word: 'Trim',
  about: "The gain at the strip's input.",
  bind: (_, faded) => (isVca(faded) ? null : trimBinding(faded)),
};
