import type { IconId } from '@core/naming/iconIds';
import { iconFor } from '@core/naming/icons';
import { travelOf } from '@core/levels/faderLaw';
import { levelText } from '@core/levels/decibels';
import { signalGraph, type Edge } from '@core/session/graph';
import { effectiveLevel } from '@core/groups/vca';
import type { Session, StripKind, Tap } from '@core/session/types';
import { tapWord } from '@/session/words';
import { say } from './texts';

/** A strip, or a family that is folded into one node. */
export interface FlowNode {
  readonly id: string;
  readonly name: string;
  readonly kind: StripKind | 'family';
  readonly colour: string;
  readonly icon: IconId;
  readonly strips: readonly string[];
  readonly level: string;
  readonly muted: boolean;
}
/** Ways between two nodes; those between folded families stand for several. */
export interface FlowEdge {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  readonly kind: Edge['kind'];
  readonly tap: Tap | null;
  readonly on: boolean;
  /** 0 (silence) .. 1 (top of a fader). */
  readonly weight: number;
  readonly label: string;
  readonly edges: readonly Edge[];
}
export interface FlowGraph {
  readonly nodes: readonly FlowNode[];
  readonly edges: readonly FlowEdge[];
}

export const familyNode = (family: string) => `family:${family}`;

/** Families that hold two sources or more: those that can be folded. */
export function foldable(session: Session): readonly string[] {
  const count = new Map<string, number>();
  for (const s of session.strips)
    if (s.kind === 'source' && !s.hidden) count.set(s.family, (count.get(s.family) ?? 0) + 1);
  return [...count].filter(([, n]) => n > 1).map(([family]) => family);
}

/**
 * The session as nodes and edges to draw. Sources of a folded family are one node, and their edges of one kind to one
 * destination are one edge. Hidden strips are left out unless something that is shown passes through them.
 */
export function flowGraph(session: Session, folded: ReadonlySet<string>): FlowGraph {
  const nodeOf = new Map<string, string>();
  const nodes = new Map<string, FlowNode>();
  const level = (id: number | null) => levelText(id);
  for (const s of session.strips) {
    if (s.kind === 'source' && s.hidden) continue;
    if (s.kind === 'source' && folded.has(s.family)) {
      const id = familyNode(s.family);
      nodeOf.set(s.id, id);
      const known = nodes.get(id);
      nodes.set(id, {
        id,
        name: s.family || say('noFamily'),
        kind: 'family',
        colour: known?.colour ?? s.colour,
        icon: iconFor({ name: '', family: s.family, kind: s.kind }),
        strips: [...(known?.strips ?? []), s.id],
        level: `${(known?.strips.length ?? 0) + 1}`,
        muted: (known?.muted ?? true) && s.mute,
      });
    } else {
      nodeOf.set(s.id, s.id);
      nodes.set(s.id, {
        id: s.id,
        name: s.name || s.id,
        kind: s.kind,
        colour: s.colour,
        icon: s.icon,
        strips: [s.id],
        level: level(effectiveLevel(session, s)),
        muted: s.mute,
      });
    }
  }
  const merged = new Map<string, FlowEdge>();
  for (const e of signalGraph(session).edges) {
    const from = nodeOf.get(e.from);
    const to = nodeOf.get(e.to);
    if (!from || !to || from === to) continue;
    const tap = e.kind === 'send' ? e.tap : null;
    const key = `${from} ${to} ${e.kind} ${tap ?? ''} ${e.on}${from === e.from && to === e.to ? ` ${e.id}` : ''}`;
    const weight = e.kind === 'send' ? travelOf(e.send.levelDb) : e.kind === 'out' ? travelOf(0) : 0.5;
    const known = merged.get(key);
    const text =
      e.kind === 'send'
        ? say('sendLabel', { level: levelText(e.send.levelDb), tap: tapWord(tap!) })
        : e.kind === 'key'
          ? say('key')
          : e.on
            ? say('out')
            : say('outOff');
    merged.set(
      key,
      known
        ? {
            ...known,
            weight: Math.max(known.weight, weight),
            label: say('manyEdges', {
              count: known.edges.length + 1,
              what: e.kind === 'send' ? say('tapSend', { tap: tapWord(tap!) }) : say(e.kind),
            }),
            edges: [...known.edges, e],
          }
        : { id: key, from, to, kind: e.kind, tap, on: e.on, weight, label: text, edges: [e] },
    );
  }
  return { nodes: [...nodes.values()], edges: [...merged.values()] };
}
