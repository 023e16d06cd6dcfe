import { XMLBuilder } from 'fast-xml-parser';
import { digraph, toDot } from 'ts-graphviz';
import { signalGraph, type Edge } from '../session/graph';
import type { Session } from '../session/types';
import type { Decibels } from '../base/units';

/** What an edge is, as one word, and its level in decibels where it has one. */
const kindOf = (e: Edge) => (e.kind === 'send' ? `send-${e.tap}` : e.kind);
const levelOf = (e: Edge) => (e.kind === 'send' ? e.send.levelDb : null);

const SHAPE = { source: 'box', submix: 'invtrapezium', return: 'ellipse', output: 'doubleoctagon' } as const;
const STYLE: Readonly<Record<string, 'solid' | 'dashed' | 'dotted'>> = {
  out: 'solid',
  'send-post': 'dashed',
  'send-pre': 'dashed',
  'send-input': 'dashed',
  key: 'dotted',
};

/** The session's graph in the DOT language of Graphviz: a node a strip, an edge an out, a send or a key. */
export function writeDot(session: Session): string {
  const graph = digraph(session.name, { rankdir: 'LR' }, (g) => {
    for (const s of session.strips)
      g.node(s.id, {
        label: s.name || s.id,
        shape: SHAPE[s.kind],
        color: s.colour,
        class: s.family || 'none',
      });
    for (const e of signalGraph(session).edges) {
      const level = levelOf(e);
      g.edge([e.from, e.to], {
        style: e.on ? STYLE[kindOf(e)]! : 'invis',
        class: `${kindOf(e)}${e.on ? '' : ' off'}`,
        ...(e.kind === 'send' ? { label: `${e.tap} ${level === null ? '-inf' : level.toFixed(1)}` } : {}),
      });
    }
  });
  return `${toDot(graph)}\n`;
}

const NODE_KEYS = ['name', 'kind', 'family', 'colour', 'mute', 'level'] as const;
const EDGE_KEYS = ['kind', 'tap', 'level', 'on'] as const;

/** The session's graph as GraphML (graphml.graphdrawing.org), with the attributes of strips, outs, sends and keys. */
export function writeGraphml(session: Session): string {
  const data = (of: 'n' | 'e', values: Readonly<Record<string, string>>) =>
    Object.entries(values).map(([key, value]) => ({ '@key': `${of}-${key}`, '#text': value }));
  const keys = (of: 'node' | 'edge', names: readonly string[]) =>
    names.map((name) => ({
      '@id': `${of[0]}-${name}`,
      '@for': of,
      '@attr.name': name,
      '@attr.type': 'string',
    }));
  const db = (level: Decibels) => (level === null ? '-inf' : String(level));
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    format: true,
    suppressEmptyNode: true,
  });
  return builder.build({
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    graphml: {
      '@xmlns': 'http://graphml.graphdrawing.org/xmlns',
      key: [...keys('node', NODE_KEYS), ...keys('edge', EDGE_KEYS)],
      graph: {
        '@id': 'session',
        '@edgedefault': 'directed',
        node: session.strips.map((s) => ({
          '@id': s.id,
          data: data('n', {
            name: s.name || s.id,
            kind: s.kind,
            family: s.family,
            colour: s.colour,
            mute: String(s.mute),
            level: db(s.faderDb),
          }),
        })),
        edge: signalGraph(session).edges.map((e) => ({
          '@id': `${e.from}/${e.to}/${e.id}`,
          '@source': e.from,
          '@target': e.to,
          data: data('e', {
            kind: e.kind,
            tap: e.kind === 'send' ? e.tap : '',
            level: e.kind === 'send' ? db(e.send.levelDb) : '',
            on: String(e.on),
          }),
        })),
      },
    },
  });
}
