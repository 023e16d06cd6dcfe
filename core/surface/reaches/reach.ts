import type { Id } from '../../base/units';
import type { DeskContext, DeskState, Reach } from '../state';

/** One thing that a window can show. Its key, its action on the page and its line in the documents follow from this. */
export interface ReachKind {
  readonly id: string;
  /** As it is told on the display, in at most eight letters. */
  readonly word: string;
  /** As it is called on the page. */
  readonly name: string;
  /** What it shows, in a sentence. */
  readonly about: string;
  /** What it is asked for with; a text where there is nothing to show, which is told instead. */
  begin?(context: DeskContext, state: DeskState): Omit<Reach, 'id'> | string;
  /** What another push leads to while the second function is held: the next family, the next layout. */
  next?(context: DeskContext, reach: Reach): string | null;
  /** What it shows, in order. */
  list(context: DeskContext, reach: Reach): readonly Id[];
  /** What it is about, for the display: a family's name, a strip's. */
  subject?(context: DeskContext, reach: Reach): string;
  /** Whether it goes with the song. */
  readonly follows?: true;
  /** Whether what it shows depends on the playhead or the loop. */
  readonly timed?: true;
  /** Whether it goes with what is picked on the page. */
  readonly picks?: true;
}
