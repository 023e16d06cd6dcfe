import dotparser from 'dotparser';
import fc from 'fast-check';
import { MultiDirectedGraph } from 'graphology';
import { parse } from 'graphology-graphml';
import { describe, expect, it } from 'vitest';
import { signalGraph } from '../session/graph';
import type { Session } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { demoSession } from '../../demo/session';
import { writeDot, writeGraphml } from './graphExport';

const awkward = (s: Session): Session => ({
  ...s,
  name: 'A "quoted" <name> & more',
  strips: s.strips.map((t, i) => (i === 0 ? { ...t, name: 'Quote " <b> & \\n; ->', family: '<&>' } : t)),
});
const edgesOf = (s: Session) =>
  signalGraph(s)
    .edges.map((e) => `${e.from} ${e.to}`)
    .sort();

interface DotItem {
  type: string;
  node_id?: { id: string };
  edge_list?: { id: string }[];
  attr_list: { id: string; eq: string }[];
}

describe('the graph in DOT', () => {
  it('is read by dotparser with every strip and every edge, names and kinds with them', () => {
    fc.assert(
      fc.property(sessions(10), (random) => {
        const s = awkward(random);
        const [graph] = dotparser(writeDot(s)) as unknown as [
          { type: string; id: string; children: DotItem[] },
        ];
        expect(graph.type).toBe('digraph');
        expect(graph.id).toBe(s.name);
        const nodes = graph.children.filter((c) => c.type === 'node_stmt');
        expect(nodes.map((n) => n.node_id!.id).sort()).toEqual(s.strips.map((t) => t.id).sort());
        const edges = graph.children.filter((c) => c.type === 'edge_stmt');
        expect(edges.map((e) => e.edge_list!.map((n) => n.id).join(' ')).sort()).toEqual(edgesOf(s));
        const label = (n: DotItem) => n.attr_list.find((a) => a.id === 'label')?.eq;
        expect(label(nodes[1]!)).toBe(s.strips[1]!.name);
      }),
      { numRuns: 40 },
    );
  });
});

describe('the graph in GraphML', () => {
  it('is read by graphology-graphml with every strip, every edge and their attributes', () => {
    fc.assert(
      fc.property(sessions(10), (random) => {
        const s = awkward(random);
        const graph = parse(MultiDirectedGraph, writeGraphml(s));
        expect(graph.nodes()).toEqual(s.strips.map((t) => t.id));
        for (const t of s.strips)
          expect(graph.getNodeAttributes(t.id)).toMatchObject({
            name: t.name,
            kind: t.kind,
            level: t.faderDb === null ? '-inf' : String(t.faderDb),
          });
        expect(graph.mapEdges((_e, _a, from, to) => `${from} ${to}`).sort()).toEqual(edgesOf(s));
        const levels = (list: readonly (string | number | null)[]) => list.map((l) => String(l)).sort();
        expect(
          levels(
            graph
              .filterEdges((_e, a) => a['kind'] === 'send')
              .map((e) => graph.getEdgeAttribute(e, 'level') as string),
          ),
        ).toEqual(levels(s.strips.flatMap((t) => t.sends.map((x) => x.levelDb ?? '-inf'))));
      }),
      { numRuns: 40 },
    );
  });
  it('of the demo tells tap and level of a send', () => {
    const graph = parse(MultiDirectedGraph, writeGraphml(demoSession()));
    const [edge] = graph.directedEdges('skin', 'plate');
    expect(graph.getEdgeAttributes(edge)).toMatchObject({
      kind: 'send',
      tap: 'post',
      level: '-20',
      on: 'true',
    });
  });
});
