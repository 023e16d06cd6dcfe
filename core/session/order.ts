import { Refusal } from '../base/refusal';
import type { Session, Strip } from './types';
import type { Id } from '../base/units';
import { signalGraph } from './graph';

const cache = new WeakMap<readonly Strip[], readonly Id[]>();

/**
 * The order in which strips are computed: each after all that feed it by outs, sends and keys. Among strips that are
 * free, the session's own order holds (Kahn, "Topological sorting of large networks", CACM 5(11), 1962).
 * @throws Refusal `cycle` with the loop spelled out
 */
export function signalOrder(session: Session): readonly Id[] {
  const known = cache.get(session.strips);
  if (known) return known;
  const { leaving, entering } = signalGraph(session);
  const waiting = new Map(session.strips.map((s) => [s.id, entering.get(s.id)!.length]));
  const order = session.strips.filter((s) => waiting.get(s.id) === 0).map((s) => s.id);
  for (let i = 0; i < order.length; i++)
    for (const edge of leaving.get(order[i]!)!) {
      const left = waiting.get(edge.to)! - 1;
      waiting.set(edge.to, left);
      if (left === 0) order.push(edge.to);
    }
  if (order.length < session.strips.length) throw cycleRefusal(findLoop(session)!);
  cache.set(session.strips, order);
  return order;
}

/**
 * The same order in ranks: strips of one rank do not feed each other, and each is fed by earlier ranks alone.
 * @throws Refusal `cycle` with the loop spelled out
 */
export function signalRanks(session: Session): readonly (readonly Id[])[] {
  const { entering } = signalGraph(session);
  const rankOf = new Map<Id, number>();
  const ranks: Id[][] = [];
  for (const id of signalOrder(session)) {
    const rank = entering.get(id)!.reduce((most, e) => Math.max(most, rankOf.get(e.from)! + 1), 0);
    rankOf.set(id, rank);
    (ranks[rank] ??= []).push(id);
  }
  return ranks;
}

export const cycleRefusal = (loop: readonly Id[]): Refusal =>
  new Refusal(
    'cycle',
    `\`${loop[0]}\` would feed itself: ${loop.join(' → ')}. Take one of these ways out of the loop first.`,
    loop.slice(0, -1),
  );

/** A loop through outs, sends and keys as ids, the first repeated at the end; null when there is none. */
export function findLoop(session: Session): readonly Id[] | null {
  const { leaving } = signalGraph(session);
  const state = new Map<Id, 'open' | 'done'>();
  for (const start of session.strips) {
    if (state.has(start.id)) continue;
    const path: Id[] = [start.id];
    const next: number[] = [0];
    state.set(start.id, 'open');
    while (path.length) {
      const id = path[path.length - 1]!;
      const edge = leaving.get(id)?.[next[next.length - 1]!++];
      if (!edge) {
        state.set(id, 'done');
        path.pop();
        next.pop();
      } else if (state.get(edge.to) === 'open') {
        return [...path.slice(path.indexOf(edge.to)), edge.to];
      } else if (!state.has(edge.to)) {
        state.set(edge.to, 'open');
        path.push(edge.to);
        next.push(0);
      }
    }
  }
  return null;
}
