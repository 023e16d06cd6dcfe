import ELK from 'elkjs/lib/elk.bundled.js';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { describe, expect, it, vi } from 'vitest';
import { largeSession } from '../../demo/large';
import { demoSession } from '../../demo/session';
import { bundlesOf, madeRoom, MANY_SENDS, parallelSends, trunkPath } from './bundles';
import { diagramSvg } from './diagramSvg';
import { flowGraph, foldable } from './flowModel';
import { laidOut, NODE_HEIGHT, NODE_WIDTH, type PlacedNode } from './layout';

vi.mock('elkjs/lib/elk-worker.min.js?url', () => ({ default: '' }));

const large = largeSession();
const drawn = async (session = large, folded: readonly string[] = []) => {
  const graph = flowGraph(session, new Set(folded));
  const placed = await new ELK().layout(laidOut(graph, true));
  const places = madeRoom(
    graph,
    new Map<string, PlacedNode>(placed.children!.map((c) => [c.id, { x: c.x!, y: c.y! }])),
  );
  return { graph, places, bundles: bundlesOf(graph, places) };
};
const middle = (p: PlacedNode) => p.y + NODE_HEIGHT / 2;

describe.each([
  ['open', [] as readonly string[]],
  ['folded', foldable(large)],
])('sends of a large session, families %s', (_, folded) => {
  it('are each in one bundle, at a height of their own source, within its line', async () => {
    const { graph, places, bundles } = await drawn(large, folded);
    const sends = graph.edges.filter((e) => e.kind === 'send');
    expect(sends.length).toBeGreaterThan(MANY_SENDS);
    expect(bundles.flatMap((b) => b.edges.map((e) => e.id)).sort()).toEqual(sends.map((e) => e.id).sort());
    for (const b of bundles)
      for (const e of b.edges) {
        expect(e.to).toBe(b.to);
        expect(middle(places.get(e.from)!)).toBeGreaterThanOrEqual(b.top);
        expect(middle(places.get(e.from)!)).toBeLessThanOrEqual(b.bottom);
      }
  });

  it('run down lines of their own, behind all sources and before everything else', async () => {
    const { graph, places, bundles } = await drawn(large, folded);
    const xs = bundles.map((b) => b.x);
    expect(new Set(xs).size).toBe(bundles.length);
    for (const n of graph.nodes) {
      const p = places.get(n.id)!;
      if (n.kind === 'source' || n.kind === 'family')
        expect(Math.min(...xs)).toBeGreaterThan(p.x + NODE_WIDTH);
      else expect(Math.max(...xs)).toBeLessThan(p.x - 20);
    }
    // What goes to a higher place turns off farther to the right.
    const heights = [...bundles].sort((a, b) => a.x - b.x).map((b) => places.get(b.to)!.y);
    expect(heights).toEqual([...heights].sort((a, b) => b - a));
  });
});

it('leaves families together, as outs alone decide in which order sources stand', async () => {
  const { graph, places } = await drawn();
  const sources = graph.nodes
    .filter((n) => n.kind === 'source')
    .sort((a, b) => places.get(a.id)!.y - places.get(b.id)!.y);
  const family = (id: string) => large.strips.find((s) => s.id === id)!.family;
  const changes = sources.filter((n, i) => i > 0 && family(n.id) !== family(sources[i - 1]!.id)).length;
  expect(changes).toBe(new Set(sources.map((n) => family(n.id))).size - 1);
});

it('draws fewer lines than there are sends: one of each source and one of each destination', async () => {
  const { graph, bundles } = await drawn();
  const lines = bundles.length + new Set(bundles.flatMap((b) => b.edges.map((e) => e.from))).size;
  expect(lines).toBeLessThan(parallelSends(graph) / 2);
});

it('leaves a small session as it is: its sends are few, and those of submixes are not in the channel', async () => {
  const demo = demoSession();
  const graph = flowGraph(demo, new Set(foldable(demo)));
  expect(parallelSends(graph)).toBeLessThanOrEqual(MANY_SENDS);
  const { bundles } = await drawn(demo);
  const kinds = new Set(
    bundles.flatMap((b) => b.edges.map((e) => demo.strips.find((s) => s.id === e.from)!.kind)),
  );
  expect([...kinds]).toEqual(['source']);
});

it('goes on to its destination from the height that is nearest', () => {
  const b = { id: 'b', to: 'r', x: 200, top: 50, bottom: 150, leaves: 150, edges: [] };
  expect(trunkPath(b, { x: 400, y: 300 })).toBe('M200 50V150M200 150C300 150 300 300 400 300');
});

it('is in the picture that is saved: a knot for each send, and well-formed', async () => {
  const { graph, places, bundles } = await drawn();
  const svg = diagramSvg('Ropes & knots', graph, places, bundles);
  expect(XMLValidator.validate(svg)).toBe(true);
  const root = new XMLParser({ ignoreAttributes: false }).parse(svg).svg;
  const knots = root.g.filter((g: { circle?: unknown }) => g.circle);
  expect(knots).toHaveLength(parallelSends(graph));
});
