import ELK, { type ELK as Elk, type ElkNode } from 'elkjs/lib/elk-api';
import elkWorker from 'elkjs/lib/elk-worker.min.js?url';
import type { FlowEdge, FlowGraph, FlowNode } from './flowModel';

export const NODE_WIDTH = 148;
export const NODE_HEIGHT = 34;

/** Tells sends of sources from other edges. */
export const ofSources = (graph: FlowGraph) => {
  const first = new Set(
    graph.nodes.filter((n) => n.kind === 'source' || n.kind === 'family').map((n) => n.id),
  );
  return (e: FlowEdge) => e.kind === 'send' && first.has(e.from);
};

let elk: Elk | null = null;
const engine = (): Elk => (elk ??= new ELK({ workerFactory: () => new Worker(elkWorker) }));

/** Loads the layout's worker ahead, so that the view opens at once. */
export const warmUp = () => engine().layout({ id: 'warm', children: [{ id: 'a', width: 1, height: 1 }] });

export interface PlacedNode {
  readonly x: number;
  readonly y: number;
}

const layerOf = (kind: FlowNode['kind']): Record<string, string> => {
  if (kind === 'source' || kind === 'family') return { 'elk.layered.layering.layerConstraint': 'FIRST' };
  return kind === 'output' ? { 'elk.layered.layering.layerConstraint': 'LAST' } : {};
};

/** Of the sends of sources into each destination the one in the middle: where they share a line, that is what places it. */
function oneOfEach(edges: readonly FlowEdge[], graph: FlowGraph): readonly FlowEdge[] {
  const sends = edges.filter(ofSources(graph));
  const kept = new Set(
    [...new Set(sends.map((e) => e.to))].map((to) => {
      const into = sends.filter((e) => e.to === to);
      return into[into.length >> 1]!.id;
    }),
  );
  const shared = new Set(sends.map((e) => e.id));
  return edges.filter((e) => !shared.has(e.id) || kept.has(e.id));
}

/**
 * What the layout is asked to place, from left to right by stage.
 * @param bundled whether sends of sources share lines: then outs alone decide in which order sources stand
 */
export function laidOut(graph: FlowGraph, bundled = false): ElkNode {
  // A key from a source to a source would go against its layer; the drawing shows it, the layout leaves it out.
  const edges = graph.edges.filter((e) => e.kind !== 'key');
  return {
    id: 'session',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.spacing.nodeNode': '10',
      'elk.layered.spacing.nodeNodeBetweenLayers': '110',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
      'elk.layered.thoroughness': '4',
      // Ways are drawn as curves: no room is kept for corners of each.
      'elk.edgeRouting': 'POLYLINE',
      // What nothing is joined to stands at its stage too: an output that nothing feeds at the right.
      'elk.separateConnectedComponents': 'false',
    },
    children: graph.nodes.map((n) => ({
      id: n.id,
      width: NODE_WIDTH,
      height: NODE_HEIGHT,
      layoutOptions: layerOf(n.kind),
    })),
    edges: (bundled ? oneOfEach(edges, graph) : edges).map((e) => ({
      id: e.id,
      sources: [e.from],
      targets: [e.to],
    })),
  };
}

/** Places the nodes in a worker, so that the page goes on. */
export async function layOut(graph: FlowGraph, bundled: boolean): Promise<ReadonlyMap<string, PlacedNode>> {
  const placed = await engine().layout(laidOut(graph, bundled));
  return new Map((placed.children ?? []).map((c) => [c.id, { x: c.x ?? 0, y: c.y ?? 0 }]));
}
