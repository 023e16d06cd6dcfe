import type { Strip } from '../../../session/types';
import type { DeskContext, EncoderState } from '../../state';
import type { Binding } from '../binding';

/** A page of encoders: what each steers, and what the page is called. */
export interface Page {
  readonly name: string;
  readonly bindings: readonly (Binding | null)[];
}

/** One thing of one strip, along the encoders. Its key, its action on the page and its line in the documents follow from this. */
export interface AlongKind {
  readonly id: string;
  readonly name: string;
  readonly word: string;
  readonly about: string;
  /** Its pages for so many encoders, at least one; a text where the strip has no such thing, which is told. */
  pages(context: DeskContext, strip: Strip, state: EncoderState, encoders: number): readonly Page[] | string;
  /** By what its page is remembered: the same for every strip that has the same thing. */
  pageKey?(context: DeskContext, strip: Strip, state: EncoderState): string;
}

/** Controls one after the other, as many on a page as there are encoders. */
export function inPages(list: readonly Binding[], encoders: number, name = ''): readonly Page[] {
  const size = Math.max(1, encoders);
  const pages: Page[] = [];
  for (let i = 0; i < Math.max(1, list.length); i += size) {
    const part = list.slice(i, i + size);
    pages.push({
      name,
      bindings: Array.from({ length: encoders }, (_, k) => part[k] ?? null),
    });
  }
  return pages;
}
