import type { Session } from '../../../session/types';
import type { Faded } from '../../faded';
import type { DeskContext } from '../../state';
import type { Binding } from '../binding';

/** One thing for every strip of the window. Its key, its action on the page and its line in the documents follow from this. */
export interface AcrossKind {
  readonly id: string;
  readonly name: string;
  /** As it is told on the display. */
  readonly word: string;
  readonly about: string;
  /** What can be chosen of it, in order: returns, bands. */
  choices?(session: Session): readonly { readonly id: string; readonly name: string }[];
  /** What an encoder steers of one strip; null where the strip has no such thing. */
  bind(context: DeskContext, faded: Faded, choice: string | undefined): Binding | null;
}
