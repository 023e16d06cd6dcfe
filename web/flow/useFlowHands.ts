import { useVueFlow, type Connection } from '@vue-flow/core';
import { reach } from '@core/session/graph';
import type { Command } from '@core/edits/commands';
import { setSends } from '@core/operations/returns';
import { nameOf, stripOf } from '@core/session/lookup';
import type { Tap } from '@core/session/types';
import { useCommands } from '@/commands/commands';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useMenu, type MenuPlace } from '@/ui/menu';
import { useNotices } from '@/ui/notices';
import type { useFlowGraph } from './useFlowGraph';
import { tapWord } from '@/session/words';
import { say } from './texts';

/** Pointer and keys on the diagram: nodes are picked, edges changed, connections drawn. */
export function useFlowHands(flow: ReturnType<typeof useFlowGraph>) {
  const session = useSession();
  const pick = usePick();
  const commands = useCommands();
  const menu = useMenu();
  const notices = useNotices();
  const { named } = useTargets();
  const { doc, graph, places, barred, toggleFold, nodeName, stripsOf, edgeOf, bundles } = flow;
  const {
    onConnect,
    onConnectStart,
    onConnectEnd,
    onNodeClick,
    onNodeDoubleClick,
    onEdgeClick,
    onPaneClick,
  } = useVueFlow('flow');

  const toggle = (ids: readonly string[]) =>
    pick.set(
      ids.every((s) => pick.chosen.has(s))
        ? [...pick.chosen].filter((s) => !ids.includes(s))
        : [...pick.chosen, ...ids],
    );
  onNodeClick(({ node, event }) => {
    const ids = stripsOf(node.id);
    const more = event.ctrlKey || event.metaKey || event.shiftKey;
    if (more) toggle(ids);
    else pick.set(ids);
  });
  onNodeDoubleClick(({ node }) => toggleFold(node.id));
  onPaneClick(() => pick.none());
  /** The strips that a connection is drawn for: the picked ones where it begins on one of them. */
  const drawnFor = (from: string) => {
    const ids = stripsOf(from);
    return ids.some((s) => pick.chosen.has(s))
      ? pick.picked.filter((s) => stripOf(doc.value, s).kind !== 'output')
      : ids;
  };
  onConnectStart(({ nodeId, handleType }) => {
    if (!nodeId) return;
    const ids = handleType === 'source' ? drawnFor(nodeId) : stripsOf(nodeId);
    const way = handleType === 'source' ? 'upstream' : 'downstream';
    const bad = new Set([...ids, ...reach(doc.value, ids, way)]);
    barred.value = new Set(
      graph.value.nodes.filter((n) => n.id !== nodeId && n.strips.some((s) => bad.has(s))).map((n) => n.id),
    );
  });
  onConnectEnd((event) => {
    const target =
      event && 'target' in event ? (event.target as HTMLElement | null)?.closest('.vue-flow__node') : null;
    const id = target?.getAttribute('data-id');
    if (id && barred.value.has(id))
      notices.refused(say('nodenameLeadsWhereBeginsWould', { nodeName: nodeName(id) }));
    barred.value = new Set();
  });
  const mayConnect = (c: Connection) =>
    c.source !== c.target &&
    !reach(doc.value, drawnFor(c.source), 'upstream').has(c.target) &&
    !drawnFor(c.source).includes(c.target);
  onConnect((c) => {
    const ids = drawnFor(c.source).filter((s) => s !== c.target);
    const goal = nameOf(doc.value, c.target);
    const at = document
      .querySelector(`.vue-flow__node[data-id="${CSS.escape(c.target)}"]`)
      ?.getBoundingClientRect();
    const send = (tap: Tap, label: string) => ({
      label,
      run: () =>
        session.change(named(say('sendToGoal', { goal }), ids), (d) =>
          setSends(d, ids, c.target, { tap, on: true }),
        ),
    });
    menu.open(
      say('namedToGoal', { named: named('', ids).trim(), goal }),
      [
        {
          label: say('byTheOut'),
          run: () =>
            session.change(say('namedToGoal', { named: named(say('outOf'), ids), goal }), () =>
              ids.map((id): Command => ({ type: 'strip.out', id, out: { to: c.target, on: true } })),
            ),
        },
        send('post', say('postFaderSend')),
        send('pre', say('preFaderSend')),
        send('input', say('sendFromInput')),
      ],
      { x: at?.left ?? 300, y: at?.bottom ?? 300 },
    );
  });
  onEdgeClick(({ edge, event }) => {
    const at = event as MouseEvent;
    openEdge(edge.id, { x: at.clientX ?? 300, y: at.clientY ?? 300 });
  });
  /** What can be done with an edge, or with a bundle of them. */
  function openEdge(id: string, at: MenuPlace) {
    const drawn = edgeOf(id);
    if (!drawn) return;
    const list = drawn.edges;
    const title =
      drawn.from === drawn.to
        ? drawn.label
        : say('nodenameToNodename2Drawn', {
            nodeName: nodeName(drawn.from),
            nodeName2: nodeName(drawn.to),
            drawn: drawn.label,
          });
    const sends = list.filter((e) => e.kind === 'send');
    const outs = list.filter((e) => e.kind === 'out');
    const change = (label: string, commands: readonly Command[]) => session.commit(label, commands);
    const setAll = (label: string, patch: { tap?: Tap; on?: boolean }) =>
      change(
        `${label}, ${title}`.slice(0, 180),
        sends.map((e): Command => ({ type: 'send.set', strip: e.from, id: e.id, patch })),
      );
    menu.open(
      title,
      [
        ...(sends.length
          ? [
              ...(['post', 'pre', 'input'] as const).map((tap) => ({
                label: tap === 'input' ? say('fromTheInput') : say(tap === 'post' ? 'postFader' : 'preFader'),
                checked: drawn.tap === tap,
                run: () => setAll(say('tapSend', { tap: tapWord(tap) }), { tap }),
              })),
              {
                label: drawn.on ? say('switchOff') : say('switchOn'),
                run: () => setAll(drawn.on ? say('sendOff') : say('sendOn'), { on: !drawn.on }),
              },
              {
                label:
                  sends.length === 1
                    ? say('removeTheSend')
                    : say('removeSendsSends', { sends: sends.length }),
                danger: true,
                run: () =>
                  change(
                    say('noSend', { edge: title }).slice(0, 180),
                    sends.map((e): Command => ({ type: 'send.remove', strip: e.from, id: e.id })),
                  ),
              },
            ]
          : []),
        ...(outs.length
          ? [
              {
                label: drawn.on ? say('dryPathOff') : say('dryPathOn'),
                run: () =>
                  change(
                    say(drawn.on ? 'dryOff' : 'dryOn', { edge: title }).slice(0, 180),
                    outs.map((e): Command => ({
                      type: 'strip.out',
                      id: e.from,
                      out: { to: e.to, on: !drawn.on },
                    })),
                  ),
              },
            ]
          : []),
        ...list.slice(0, 6).map((e) => ({
          label: say('showName', { name: nameOf(doc.value, e.from) }),
          run: () => pick.only(e.from),
        })),
      ],
      at,
    );
  }
  /** The node that is nearest in a direction, by what lies along it and twice what lies aside. */
  function neighbour(id: string, way: 'left' | 'right' | 'up' | 'down'): string | null {
    const here = places.value.get(id)!;
    const across = way === 'left' || way === 'right';
    const sign = way === 'right' || way === 'down' ? 1 : -1;
    let best: { id: string; far: number } | null = null;
    for (const [other, p] of places.value) {
      const along = (across ? p.x - here.x : p.y - here.y) * sign;
      const aside = Math.abs(across ? p.y - here.y : p.x - here.x);
      if (along <= 4 || (!across && aside > 80)) continue;
      const far = along + 2 * aside;
      if (!best || far < best.far) best = { id: other, far };
    }
    return best?.id ?? null;
  }
  /** Lines that leave a node or come in, as they stand from above; a bundle in the place of those that it holds at its end. */
  const linesOf = (id: string, way: 'leaving' | 'coming') => {
    const held = new Set(bundles.value.filter((b) => b.to === id).flatMap((b) => b.edges.map((e) => e.id)));
    const own = graph.value.edges.filter((e) => (way === 'leaving' ? e.from : e.to) === id);
    const far = (e: { from: string; to: string }) =>
      places.value.get(way === 'leaving' ? e.to : e.from)?.y ?? 0;
    return [
      ...(way === 'coming' ? bundles.value.filter((b) => b.to === id).map((b) => b.id) : []),
      ...own
        .filter((e) => way === 'leaving' || !held.has(e.id))
        .sort((a, b) => far(a) - far(b))
        .map((e) => e.id),
    ];
  };
  const lineAt = (id: string | undefined) => {
    if (id !== undefined)
      document.querySelector<SVGGElement>(`[data-edge="${CSS.escape(id)}"]`)?.focus({ preventScroll: true });
  };
  const nodeAt = (id: string) =>
    document.querySelector<HTMLElement>(`.vue-flow__node[data-id="${CSS.escape(id)}"]`)?.focus();
  /** On a line: its menu, its neighbours at the node that it was reached from, and its ends. */
  let from: { readonly node: string; readonly way: 'leaving' | 'coming' } | null = null;
  function keyOnLine(e: KeyboardEvent, line: SVGGElement) {
    const id = line.dataset.edge!;
    const drawn = edgeOf(id);
    const what = commands.keyIn('flow', e);
    if (!what || !drawn) return;
    const beside = from ? linesOf(from.node, from.way) : [];
    if (what === 'only') openEdge(id, line);
    else if (what === 'left') nodeAt(drawn.from);
    else if (what === 'right') nodeAt(drawn.to);
    else if (what === 'up' || what === 'down') lineAt(beside[beside.indexOf(id) + (what === 'up' ? -1 : 1)]);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  function key(e: KeyboardEvent) {
    const line = (e.target as HTMLElement).closest<SVGGElement>('[data-edge]');
    if (line) return keyOnLine(e, line);
    const id = (e.target as HTMLElement).closest('.vue-flow__node')?.getAttribute('data-id');
    const what = id && commands.keyIn('flow', e);
    if (!what) return;
    if (what === 'only') pick.set(stripsOf(id));
    else if (what === 'toggle') toggle(stripsOf(id));
    else if (what === 'fold') toggleFold(id);
    else if (what === 'leaving' || what === 'coming') {
      from = { node: id, way: what };
      lineAt(linesOf(id, what)[0]);
    } else {
      const next = neighbour(id, what as 'left' | 'right' | 'up' | 'down');
      if (next) nodeAt(next);
    }
    e.preventDefault();
    e.stopPropagation();
  }

  return { key, mayConnect };
}
