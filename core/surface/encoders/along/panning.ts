import { panBinding, sendBinding, widthBinding } from '../bindings';
import { inPages, type AlongKind } from './along';

export const panning: AlongKind = {
  id: 'panning',
  name: 'Pan',
  word: 'Pan',
  about: "The strip's pan and width, then the pans of its sends.",
  pages: ({ session }, strip, _, encoders) =>
    inPages(
      [
        panBinding(strip),
        ...(strip.channels === 2 ? [widthBinding(strip)] : []),
        ...strip.sends.map((x) => sendBinding(session, strip, x).second!),
      ],
      encoders,
    ),
};
