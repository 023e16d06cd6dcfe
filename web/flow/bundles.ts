import { ofSources, NODE_HEIGHT, NODE_WIDTH, type PlacedNode } from './layout';
import type { FlowEdge, FlowGraph } from './flowModel';
import { say } from './texts';

/*
 * Where many sends run side by side, those into one destination share a line down the channel behind the sources, and those of one
 * source leave as one line across it: a knot where they meet is a send.
 */

/** Sends of sources beyond which they begin bundled. */
export const MANY_SENDS = 24;
/** Pixels from one line to the next. */
const LANE = 14;
/** Pixels that the lines keep from the sources. */
const MARGIN = 28;

/** The line that all sends of sources into one destination share. */
export interface Bundle {
  readonly id: string;
  readonly to: string;
  readonly x: number;
  readonly top: number;
  readonly bottom: number;
  /** Where it turns towards its destination. */
  readonly leaves: number;
  readonly edges: readonly FlowEdge[];
}
export const bundleId = (to: string) => `bundle:${to}`;

/** How many lines the sends of sources are. */
export const parallelSends = (graph: FlowGraph): number => graph.edges.filter(ofSources(graph)).length;

const destinationsOf = (graph: FlowGraph) => [
  ...new Set(graph.edges.filter(ofSources(graph)).map((e) => e.to)),
];

/**
 * Makes room for the lines: everything behind the sources moves to the right.
 * @param places of the nodes, in pixels
 */
export function madeRoom(
  graph: FlowGraph,
  places: ReadonlyMap<string, PlacedNode>,
): ReadonlyMap<string, PlacedNode> {
  const room = destinationsOf(graph).length * LANE;
  const first = Math.min(...[...places.values()].map((p) => p.x));
  return new Map([...places].map(([id, p]) => [id, p.x > first + NODE_WIDTH ? { ...p, x: p.x + room } : p]));
}

/**
 * Bundles of the sends of sources. The line of the destination that stands highest lies farthest to the right, so that lines that turn
 * upwards do not cross those that turn downwards.
 * @param places of the nodes, with room made
 */
export function bundlesOf(graph: FlowGraph, places: ReadonlyMap<string, PlacedNode>): readonly Bundle[] {
  const sends = graph.edges.filter(ofSources(graph)).filter((e) => places.has(e.from) && places.has(e.to));
  const middle = (id: string) => places.get(id)!.y + NODE_HEIGHT / 2;
  const goals = [...new Set(sends.map((e) => e.to))].sort((a, b) => middle(b) - middle(a));
  return goals.map((to, n) => {
    const edges = sends.filter((e) => e.to === to);
    const ys = edges.map((e) => middle(e.from));
    const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
    const left = Math.max(...sends.map((e) => places.get(e.from)!.x)) + NODE_WIDTH;
    return {
      id: bundleId(to),
      to,
      x: left + MARGIN + n * LANE,
      top,
      bottom,
      leaves: Math.max(top, Math.min(bottom, middle(to))),
      edges,
    };
  });
}

/** The line that a bundle's sends share, as path data: down the channel, and on to its destination. @param goal the left end of the destination */
export function trunkPath(b: Bundle, goal: { readonly x: number; readonly y: number }): string {
  const bend = Math.max(40, (goal.x - b.x) / 2);
  return `M${b.x} ${b.top}V${b.bottom}M${b.x} ${b.leaves}C${b.x + bend} ${b.leaves} ${goal.x - bend} ${goal.y} ${goal.x} ${goal.y}`;
}

/** A knot's radius: the louder, the larger. */
export const knotRadius = (e: Pick<FlowEdge, 'weight'>) => 2 + 3 * e.weight;

/** A bundle as one edge that stands for all of its sends: it begins where it ends. @param name of its destination */
export function bundleEdge(b: Bundle, name: string): FlowEdge {
  const edges = b.edges.flatMap((e) => e.edges);
  const { tap } = b.edges[0]!;
  return {
    id: b.id,
    from: b.to,
    to: b.to,
    kind: 'send',
    tap: b.edges.every((e) => e.tap === tap) ? tap : null,
    on: b.edges.some((e) => e.on),
    weight: Math.max(...b.edges.map((e) => e.weight)),
    label: say('sendsInto', { sends: edges.length, name }),
    edges,
  };
}
