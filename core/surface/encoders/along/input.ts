import {
  gainBinding,
  invertBinding,
  preampSwitches,
  swapBinding,
  trimBinding,
  widthBinding,
} from '../bindings';
import { inPages, type AlongKind } from './along';

export const input: AlongKind = {
  id: 'input',
  name: 'Input stage',
  word: 'Input',
  about:
    'Trim, polarity, and of a stereo strip its sides and width; the gain and switches of its preamplifier.',
  pages(_, strip, __, encoders) {
    const gain = gainBinding(strip);
    return inPages(
      [
        trimBinding(strip),
        invertBinding(strip),
        ...(strip.channels === 2 ? [swapBinding(strip), widthBinding(strip)] : []),
        ...(gain ? [gain, ...preampSwitches(strip)] : []),
      ],
      encoders,
    );
  },
};
