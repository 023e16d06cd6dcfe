import { keepable } from '@core/base/text';
import { kindWord } from '@/session/words';
import { NODE_HEIGHT, NODE_WIDTH, type PlacedNode } from './layout';
import { knotRadius, trunkPath, type Bundle } from './bundles';
import type { FlowEdge, FlowGraph } from './flowModel';
import { say } from './texts';

const escape = (text: string) =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!);

/** Dashes that tell an edge's kind: none an out, long post-fader, short pre-fader, dots input, dash-dot a key. */
export const dashOf = (e: Pick<FlowEdge, 'kind' | 'tap'>): string =>
  e.kind === 'out'
    ? ''
    : e.kind === 'key'
      ? '8 3 2 3'
      : e.tap === 'post'
        ? '10 4'
        : e.tap === 'pre'
          ? '4 4'
          : '1.5 4';
export const widthOf = (e: Pick<FlowEdge, 'weight'>) => 1 + 2.5 * e.weight;

/** A way from the right edge of a node to the left edge of another. */
export function curve(from: PlacedNode, to: PlacedNode): string {
  const [x1, y1] = [from.x + NODE_WIDTH, from.y + NODE_HEIGHT / 2];
  const [x2, y2] = [to.x, to.y + NODE_HEIGHT / 2];
  const bend = Math.max(40, Math.abs(x2 - x1) / 2);
  return `M${x1} ${y1} C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`;
}

/** What stands under a node's name. */
const under = (n: FlowGraph['nodes'][number]): string =>
  n.kind === 'family'
    ? say('levelStrips', { level: n.strips.length })
    : say(n.muted ? 'mutedLevel' : 'plainLevel', { kind: kindWord(n.kind), level: n.level });

/** The diagram as it is laid out, as a picture of its own: ink on paper. */
export function diagramSvg(
  title: string,
  graph: FlowGraph,
  places: ReadonlyMap<string, PlacedNode>,
  bundles: readonly Bundle[] = [],
): string {
  const at = (id: string) => places.get(id) ?? { x: 0, y: 0 };
  const width = Math.max(0, ...[...places.values()].map((p) => p.x)) + NODE_WIDTH + 40;
  const height = Math.max(0, ...[...places.values()].map((p) => p.y)) + NODE_HEIGHT + 70;
  const lineOf = new Map(bundles.flatMap((b) => b.edges.map((e) => [e.id, b] as const)));
  const trunks = bundles.map((b) => {
    const goal = at(b.to);
    return `<path d="${trunkPath(b, { x: goal.x, y: goal.y + NODE_HEIGHT / 2 })}" fill="none" stroke="#3a5a60" stroke-width="2"/>`;
  });
  const knots = graph.edges.flatMap((e) => {
    const line = lineOf.get(e.id);
    if (!line) return [];
    const { x, y } = at(e.from);
    const ink = e.on ? '#3a5a60' : '#b9b4a6';
    return [
      `<g stroke="${ink}"><title>${escape(e.label)}</title><path d="M${x + NODE_WIDTH} ${y + NODE_HEIGHT / 2}H${line.x}" stroke-width="0.7"/><circle cx="${line.x}" cy="${y + NODE_HEIGHT / 2}" r="${knotRadius(e).toFixed(2)}" fill="${e.tap === 'post' ? ink : '#f5f1e6'}"/></g>`,
    ];
  });
  const edges = graph.edges
    .filter((e) => !lineOf.has(e.id))
    .map(
      (e) =>
        `<path d="${curve(at(e.from), at(e.to))}" fill="none" stroke="${e.on ? '#3a5a60' : '#b9b4a6'}" stroke-width="${widthOf(e).toFixed(2)}"${dashOf(e) ? ` stroke-dasharray="${dashOf(e)}"` : ''}><title>${escape(e.label)}</title></path>`,
    );
  const nodes = graph.nodes.map((n) => {
    const { x, y } = at(n.id);
    return `<g transform="translate(${x} ${y})"><rect width="${NODE_WIDTH}" height="${NODE_HEIGHT}" fill="#ffffff" stroke="#1c2a2e"/><rect width="5" height="${NODE_HEIGHT}" fill="${n.colour}"/><text x="12" y="15" font-size="12" font-weight="600">${escape(keepable(n.name, 22))}</text><text x="12" y="28" font-size="10" fill="#4a5d60">${escape(under(n))}</text></g>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="-20 -50 ${width} ${height}" width="${width}" height="${height}" font-family="sans-serif" fill="#1c2a2e"><title>${escape(title)}</title><rect x="-20" y="-50" width="${width}" height="${height}" fill="#f5f1e6"/><text x="0" y="-22" font-size="18" font-weight="600">${escape(title)}</text>${edges.join('')}${trunks.join('')}${knots.join('')}${nodes.join('')}</svg>\n`;
}
