import { processorOf } from '../../../processors/registry';
import type { Insert, Strip } from '../../../session/types';
import type { DeskContext, EncoderState } from '../../state';
import { mixBinding, parameterBinding } from '../bindings';
import { firstOf } from '../firstOf';
import { processorPages } from '../processorPages';
import type { AlongKind, Page } from './along';

/** The insert of a strip that the encoders steer: the one that was gone into, or else the one of its kind that comes first. */
export const insertUnder = (
  { desk }: DeskContext,
  strip: Strip,
  { insert }: EncoderState,
): Insert | undefined => strip.inserts.find((i) => i.id === insert.id) ?? firstOf(desk, strip, insert.type);

/** Pages of one insert over so many encoders; how much of it is heard has a free place on its last page, or a page of its own. */
export function insertPages(strip: Strip, insert: Insert, encoders: number): readonly Page[] {
  const processor = processorOf(insert.type);
  const pages = processorPages(processor, encoders).map((p) => ({
    name: p.name,
    bindings: p.encoders.map((q) => q && parameterBinding(strip, insert, q)),
  }));
  const mix = mixBinding(strip, insert);
  if (!mix) return pages;
  const last = pages.at(-1);
  const free = last ? last.bindings.lastIndexOf(null) : -1;
  if (last && free >= 0)
    return [
      ...pages.slice(0, -1),
      { ...last, bindings: last.bindings.map((b, i) => (i === free ? mix : b)) },
    ];
  return [...pages, { name: 'Mix', bindings: Array.from({ length: encoders }, (_, k) => (k ? null : mix)) }];
}

export const insert: AlongKind = {
  id: 'insert',
  name: 'One insert',
  word: 'Insert',
  about:
    'The parameters of one insert in pages; each group of them, such as a band, takes four encoders. The same kind of insert comes up on another strip.',
  pages(context, strip, state, encoders) {
    const found = insertUnder(context, strip, state);
    return found
      ? insertPages(strip, found, encoders)
      : `${strip.name || strip.id} has no ${processorOf(state.insert.type).name}`;
  },
  pageKey: (context, strip, state) =>
    `insert ${insertUnder(context, strip, state)?.type ?? state.insert.type}`,
};
