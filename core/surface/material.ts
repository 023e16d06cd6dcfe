import type { Id, Seconds } from '../base/units';
import { heldBy } from '../groups/vca';
import type { Spans } from '../metering/spans';
import { reach } from '../session/graph';
import type { Session } from '../session/types';
import { remembered, structureOf } from './structure';

/** Facts about material: spans by the address of the stem. A stem of which nothing is known is taken to sound throughout. */
export type Material = Readonly<Record<string, Spans>>;

const ALWAYS: Spans = [[0, Infinity]];
const NEVER: Spans = [];

/** Spans of several together. */
export function joined(lists: readonly Spans[]): Spans {
  const all = lists.flat().sort((a, b) => a[0] - b[0]);
  const out: [number, number][] = [];
  for (const [start, end] of all) {
    const last = out.at(-1);
    if (last && start <= last[1]) last[1] = Math.max(last[1], end);
    else out.push([start, end]);
  }
  return out;
}

/** Whether any of it lies within a span of time; a moment is a span of no length. */
export function sounds(spans: Spans, start: Seconds, end: Seconds = start): boolean {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (spans[mid]![1] < start) low = mid + 1;
    else high = mid;
  }
  const found = spans[low];
  return found !== undefined && found[0] <= end;
}

/**
 * Where each strip and VCA has something to play: a source where its stem has, a submix, return or output where one of those
 * that feed it has, a VCA where one of those that it holds has. A source without a stem never has.
 */
export const spansOf = remembered(
  (session: Session, material: Material) => [structureOf(session), material],
  (session: Session, material: Material): ReadonlyMap<Id, Spans> => {
    const spans = new Map<Id, Spans>();
    for (const s of session.strips)
      if (s.kind === 'source') spans.set(s.id, s.stem === null ? NEVER : (material[s.stem] ?? ALWAYS));
    for (const s of session.strips)
      if (s.kind !== 'source') {
        const feeders = reach(session, [s.id], 'upstream', (e) => e.kind !== 'key' && e.on);
        spans.set(s.id, joined([...feeders].map((id) => spans.get(id) ?? NEVER).filter((x) => x.length)));
      }
    for (const v of session.vcas)
      spans.set(v.id, joined(heldBy(session, v.id).map((s) => spans.get(s.id) ?? NEVER)));
    return spans;
  },
);

/** Whether a strip or VCA has anything to play within a span of time. */
export const hasMaterial = (
  session: Session,
  material: Material,
  id: Id,
  start: Seconds = 0,
  end: Seconds = Infinity,
): boolean => sounds(spansOf(session, material).get(id) ?? NEVER, start, end);
