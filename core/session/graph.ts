import { follows } from './mode';
import type { Send, Session, Strip, Tap } from './types';
import type { Id } from '../base/units';

/** One way for a signal from a strip to another: its out, a send, or a key input. */
export type Edge =
  | { readonly kind: 'out'; readonly id: Id; readonly from: Id; readonly to: Id; readonly on: boolean }
  | {
      readonly kind: 'send';
      readonly id: Id;
      readonly from: Id;
      readonly to: Id;
      readonly on: boolean;
      readonly tap: Tap;
      readonly send: Send;
    }
  | { readonly kind: 'key'; readonly id: Id; readonly from: Id; readonly to: Id; readonly on: boolean };

export interface SignalGraph {
  readonly edges: readonly Edge[];
  readonly leaving: ReadonlyMap<Id, readonly Edge[]>;
  readonly entering: ReadonlyMap<Id, readonly Edge[]>;
}

const cache = new WeakMap<readonly Strip[], SignalGraph>();

/** Whether a send is on, or is switched on by its lane at some time. */
const opens = (strip: Strip, send: Send): boolean =>
  follows(strip.automation) && send.lanes.on ? send.lanes.on.some(([, v]) => v === 1) : send.on;

/** The session as a graph; edges that are off are part of it. */
export function signalGraph(session: Session): SignalGraph {
  const known = cache.get(session.strips);
  if (known) return known;
  const edges: Edge[] = [];
  const leaving = new Map<Id, Edge[]>();
  const entering = new Map<Id, Edge[]>();
  for (const strip of session.strips) {
    leaving.set(strip.id, []);
    entering.set(strip.id, []);
  }
  const put = (edge: Edge) => {
    edges.push(edge);
    leaving.get(edge.from)?.push(edge);
    entering.get(edge.to)?.push(edge);
  };
  for (const strip of session.strips) {
    for (const send of strip.sends)
      put({
        kind: 'send',
        id: send.id,
        from: strip.id,
        to: send.to,
        on: opens(strip, send),
        tap: send.tap,
        send,
      });
    if (strip.out.to !== null)
      put({ kind: 'out', id: `${strip.id}:out`, from: strip.id, to: strip.out.to, on: strip.out.on });
    for (const insert of strip.inserts)
      if (insert.key !== null)
        put({ kind: 'key', id: `${insert.id}:key`, from: insert.key, to: strip.id, on: insert.on });
  }
  const graph = { edges, leaving, entering };
  cache.set(session.strips, graph);
  return graph;
}

/** All strips that can be reached from these along edges, these left out unless a path leads back to them. */
export function reach(
  session: Session,
  from: Iterable<Id>,
  way: 'downstream' | 'upstream',
  follow: (edge: Edge) => boolean = () => true,
): ReadonlySet<Id> {
  const graph = signalGraph(session);
  const found = new Set<Id>();
  const todo = [...from];
  while (todo.length) {
    const id = todo.pop()!;
    const edges = (way === 'downstream' ? graph.leaving : graph.entering).get(id) ?? [];
    for (const edge of edges) {
      const next = way === 'downstream' ? edge.to : edge.from;
      if (follow(edge) && !found.has(next)) {
        found.add(next);
        todo.push(next);
      }
    }
  }
  return found;
}
