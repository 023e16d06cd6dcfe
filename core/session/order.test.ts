import fc from 'fast-check';
import { DirectedGraph } from 'graphology';
import { hasCycle, topologicalSort } from 'graphology-dag';
import { describe, expect, it } from 'vitest';
import { newSend, newSession, newStrip } from './defaults';
import { Refusal } from '../base/refusal';
import type { Session } from './types';
import { sessions } from '../testing/arbitraries';
import { reach, signalGraph } from './graph';
import { findLoop, signalOrder } from './order';

/** The same graph in a general-purpose graph package (graphology). */
function general(session: Session): DirectedGraph {
  const graph = new DirectedGraph();
  for (const s of session.strips) graph.addNode(s.id);
  for (const e of signalGraph(session).edges) graph.mergeEdge(e.from, e.to);
  return graph;
}

describe('signal order', () => {
  it('is a topological order, as graphology-dag computes one', () => {
    fc.assert(
      fc.property(sessions(24), (session) => {
        const order = signalOrder(session);
        const at = new Map(order.map((id, i) => [id, i]));
        for (const e of signalGraph(session).edges) expect(at.get(e.from)!).toBeLessThan(at.get(e.to)!);
        expect([...order].sort()).toEqual([...topologicalSort(general(session))].sort());
      }),
    );
  });

  it('finds a loop exactly where graphology-dag finds one, and spells it out', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(7), fc.nat(7)), { maxLength: 14 }), (pairs) => {
        const base = newSession('Loops');
        const ids = Array.from({ length: 8 }, (_, i) => `b${i}`);
        const session: Session = {
          ...base,
          strips: [
            ...ids.map((id, i) =>
              newStrip({
                id,
                kind: 'submix',
                name: id,
                out: { to: null, on: true },
                sends: pairs
                  .filter(([from]) => from === i)
                  .map(([, to], k) => newSend({ id: `x${k}`, to: ids[to]! })),
              }),
            ),
            ...base.strips,
          ],
        };
        const graph = general({ ...session, strips: [...session.strips] });
        const loop = findLoop(session);
        const self = pairs.some(([a, b]) => a === b);
        expect(loop !== null).toBe(hasCycle(graph) || self);
        if (loop) {
          expect(loop[0]).toBe(loop.at(-1));
          for (let i = 1; i < loop.length; i++)
            expect(graph.hasDirectedEdge(loop[i - 1], loop[i])).toBe(true);
          expect(() => signalOrder(session)).toThrow(Refusal);
        }
      }),
    );
  });

  it('names a loop through sends in words', () => {
    const base = newSession('Loop');
    const send = (to: string) => newSend({ id: 'x', to });
    const session: Session = {
      ...base,
      strips: [
        newStrip({
          id: 'plate',
          kind: 'return',
          name: 'Plate',
          out: { to: 'main', on: true },
          sends: [send('slap')],
        }),
        newStrip({
          id: 'slap',
          kind: 'return',
          name: 'Slap',
          out: { to: 'main', on: true },
          sends: [send('plate')],
        }),
        ...base.strips,
      ],
    };
    expect(() => signalOrder(session)).toThrow(/plate → slap → plate|slap → plate → slap/);
  });
});

describe('reach', () => {
  it('finds what a breadth-first search over graphology finds', () => {
    fc.assert(
      fc.property(sessions(20), fc.nat(), (session, n) => {
        const start = session.strips[n % session.strips.length]!.id;
        const graph = general(session);
        const expected = new Set<string>();
        const todo = [start];
        while (todo.length)
          for (const next of graph.outNeighbors(todo.pop()!))
            if (!expected.has(next)) {
              expected.add(next);
              todo.push(next);
            }
        expect([...reach(session, [start], 'downstream')].sort()).toEqual([...expected].sort());
      }),
    );
  });
});
