<script setup lang="ts">
import '@vue-flow/core/dist/style.css';
import {
  VueFlow,
  useVueFlow,
  type Connection,
  type Edge as DrawnEdge,
  type Node as DrawnNode,
  type NodeComponent,
} from '@vue-flow/core';
import { useDebounceFn } from '@vueuse/core';
import { computed, markRaw, nextTick, ref, shallowRef, watch } from 'vue';
import { writeDot, writeGraphml } from '@core/formats/graphExport';
import { readPatchList, writePatchList } from '@core/formats/patchList';
import { reach, type Edge } from '@core/routing/graph';
import type { Command } from '@core/session/commands/types';
import { setSends } from '@core/session/gestures/returns';
import { nameOf, stripOf } from '@core/session/lookup';
import type { Tap } from '@core/session/types';
import { useActions } from '@/commands/actions';
import ChangePreview from '@/session/ChangePreview.vue';
import Inspector from '@/strip/StripPanel.vue';
import PickBar from '@/strip/PickBar.vue';
import { useFindings } from '@/findings/useFindings';
import { dashOf, diagramSvg, widthOf } from './diagramSvg';
import FlowNodeView, { type FlowNodeData } from './FlowNodeView.vue';
import { flowGraph, foldable } from './flowModel';
import { layOut, type Placed } from './layout';
import { useAnswers } from '@/answers/answers';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';

const session = useSession();
const pick = usePick();
const answers = useAnswers();
const actions = useActions();
const findings = useFindings();
const settings = useSettings();
const notices = useNotices();
const {
  fitView,
  onConnect,
  onConnectStart,
  onConnectEnd,
  onNodeClick,
  onNodeDoubleClick,
  onEdgeClick,
  onPaneClick,
} = useVueFlow('flow');

/** More sources than this, and families begin folded. */
const MANY = 24;
/** The whole graph, as far as names can be read. */
const WHOLE = { padding: 0.06, minZoom: 0.55, maxZoom: 1.4 };
const folded = shallowRef<ReadonlySet<string>>(new Set());
const doc = computed(() => session.shown!);
const families = computed(() => foldable(doc.value));
watch(
  () => session.id,
  () => {
    const many = doc.value.strips.filter((s) => s.kind === 'source').length > MANY;
    folded.value = new Set(many ? families.value : []);
  },
  { immediate: true },
);
const graph = computed(() => flowGraph(doc.value, folded.value));
/** What decides where things stand; levels do not. */
const structure = computed(() =>
  [...graph.value.nodes.map((n) => n.id), '|', ...graph.value.edges.map((e) => `${e.from}>${e.to}`)].join(
    ' ',
  ),
);
const places = shallowRef<ReadonlyMap<string, Placed>>(new Map());
const laying = ref(true);
let first = true;
/** After families were folded or opened, what is picked is brought into view. */
let refit = false;
let asked = 0;
const place = useDebounceFn(async () => {
  const mine = ++asked;
  laying.value = true;
  try {
    const next = await layOut(graph.value);
    if (mine !== asked) return;
    places.value = next;
    if (first || refit) {
      const ids = first ? [] : nodes.value.filter((n) => n.data.picked).map((n) => n.id);
      first = refit = false;
      await nextTick();
      setTimeout(
        () => void fitView(ids.length ? { ...WHOLE, nodes: ids, minZoom: 0.3, maxZoom: 1 } : WHOLE),
        60,
      );
    }
  } catch (error) {
    notices.refused(error);
  }
  laying.value = false;
}, 60);
watch(folded, () => (refit = true), { flush: 'sync' });
watch(structure, () => void place(), { immediate: true });

const found = computed(() => {
  const by = new Map<string, string[]>();
  for (const f of findings.open)
    for (const id of f.where.slice(0, 1)) by.set(id, [...(by.get(id) ?? []), f.what]);
  return by;
});
const litEdge = (e: Edge) => {
  const rows = answers.lit.get(e.from)?.split(' ');
  return (
    rows !== undefined &&
    (e.kind === 'out' ? rows.includes('out') : e.kind === 'send' && rows.includes(`send:${e.to}`))
  );
};
/** Nodes that a new connection must not reach: they lead to where it begins. */
const barred = shallowRef<ReadonlySet<string>>(new Set());
const nodeTypes = { strip: markRaw(FlowNodeView) as NodeComponent };
const nodes = computed<DrawnNode[]>(() =>
  graph.value.nodes
    .filter((n) => places.value.has(n.id))
    .map((n) => ({
      id: n.id,
      type: 'strip',
      position: places.value.get(n.id)!,
      ariaLabel: `${n.name}, ${n.kind}${n.strips.some((s) => pick.chosen.has(s)) ? ', picked' : ''}`,
      data: {
        node: n,
        picked: n.strips.some((s) => pick.chosen.has(s)),
        traced: n.strips.some((s) => answers.lit.has(s)),
        silent: n.muted || n.strips.every((s) => !session.audible.has(s)),
        barred: barred.value.has(n.id),
        findings: n.strips.flatMap((s) => found.value.get(s) ?? []).join('\n'),
      } satisfies FlowNodeData,
    })),
);
const edges = computed<DrawnEdge[]>(() =>
  graph.value.edges
    .filter((e) => places.value.has(e.from) && places.value.has(e.to))
    .map((e) => {
      const lit = e.edges.some(litEdge);
      return {
        id: e.id,
        source: e.from,
        target: e.to,
        ariaLabel: `${nodeName(e.from)} to ${nodeName(e.to)}, ${e.label}`,
        class: [e.kind, e.on ? '' : 'off', lit ? 'lit' : ''].join(' '),
        style: { strokeWidth: `${widthOf(e) + (lit ? 1 : 0)}px`, strokeDasharray: dashOf(e) },
        zIndex: lit ? 5 : 0,
      };
    }),
);
const nodeName = (id: string) => graph.value.nodes.find((n) => n.id === id)?.name ?? id;
const stripsOf = (id: string) => graph.value.nodes.find((n) => n.id === id)?.strips ?? [];

// — hands —
onNodeClick(({ node, event }) => {
  const ids = stripsOf(node.id);
  const more = event.ctrlKey || event.metaKey || event.shiftKey;
  if (more)
    pick.set(
      ids.every((s) => pick.chosen.has(s))
        ? [...pick.chosen].filter((s) => !ids.includes(s))
        : [...pick.chosen, ...ids],
    );
  else pick.set(ids);
});
onNodeDoubleClick(({ node }) => toggleFold(node.id));
onPaneClick(() => pick.none());
function toggleFold(id: string) {
  const family = id.startsWith('family:')
    ? id.slice(7)
    : stripOf(doc.value, id).kind === 'source'
      ? stripOf(doc.value, id).family
      : null;
  if (family === null || !families.value.includes(family)) return;
  const next = new Set(folded.value);
  if (!next.delete(family)) next.add(family);
  folded.value = next;
}
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
    notices.refused(`${nodeName(id)} leads to where this begins: it would feed itself.`);
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
      session.change(actions.named(`send to ${goal},`, ids), (d) =>
        setSends(d, ids, c.target, { tap, on: true }),
      ),
  });
  actions.openMenu(
    `${actions.named('', ids).trim()} to ${goal}`,
    [
      {
        label: 'By the out',
        run: () =>
          session.change(`${actions.named('out of', ids)} to ${goal}`, () =>
            ids.map((id): Command => ({ type: 'strip.out', id, out: { to: c.target, on: true } })),
          ),
      },
      send('post', 'By a post-fader send'),
      send('pre', 'By a pre-fader send'),
      send('input', 'By a send from the input'),
    ],
    { x: at?.left ?? 300, y: at?.bottom ?? 300 },
  );
});
onEdgeClick(({ edge, event }) => {
  const drawn = graph.value.edges.find((e) => e.id === edge.id);
  if (!drawn) return;
  const list = drawn.edges;
  const title = `${nodeName(drawn.from)} to ${nodeName(drawn.to)}: ${drawn.label}`;
  const sends = list.filter((e) => e.kind === 'send');
  const outs = list.filter((e) => e.kind === 'out');
  const change = (label: string, commands: readonly Command[]) => session.commit(label, commands);
  const setAll = (label: string, patch: { tap?: Tap; on?: boolean }) =>
    change(
      `${label}, ${title}`.slice(0, 180),
      sends.map((e): Command => ({ type: 'send.set', strip: e.from, id: e.id, patch })),
    );
  const at = event as MouseEvent;
  actions.openMenu(
    title,
    [
      ...(sends.length
        ? [
            ...(['post', 'pre', 'input'] as const).map((tap) => ({
              label: tap === 'input' ? 'From the input' : `${tap === 'post' ? 'Post' : 'Pre'}-fader`,
              checked: drawn.tap === tap,
              run: () => setAll(`${tap} send`, { tap }),
            })),
            {
              label: drawn.on ? 'Switch off' : 'Switch on',
              run: () => setAll(drawn.on ? 'send off' : 'send on', { on: !drawn.on }),
            },
            {
              label: sends.length === 1 ? 'Remove the send' : `Remove ${sends.length} sends`,
              danger: true,
              run: () =>
                change(
                  `no send, ${title}`.slice(0, 180),
                  sends.map((e): Command => ({ type: 'send.remove', strip: e.from, id: e.id })),
                ),
            },
          ]
        : []),
      ...(outs.length
        ? [
            {
              label: drawn.on ? 'Dry path off' : 'Dry path on',
              run: () =>
                change(
                  `dry path ${drawn.on ? 'off' : 'on'}, ${title}`.slice(0, 180),
                  outs.map((e): Command => ({
                    type: 'strip.out',
                    id: e.from,
                    out: { to: e.to, on: !drawn.on },
                  })),
                ),
            },
          ]
        : []),
      ...list
        .slice(0, 6)
        .map((e) => ({ label: `Show ${nameOf(doc.value, e.from)}`, run: () => pick.only(e.from) })),
    ],
    { x: at.clientX ?? 300, y: at.clientY ?? 300 },
  );
});
function key(e: KeyboardEvent) {
  const id = (e.target as HTMLElement).closest('.vue-flow__node')?.getAttribute('data-id');
  if (!id || e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.key === 'Enter' || e.key.toLowerCase() === 'x') {
    const ids = stripsOf(id);
    if (e.key === 'Enter') pick.set(ids);
    else
      pick.set(
        ids.every((s) => pick.chosen.has(s))
          ? [...pick.chosen].filter((s) => !ids.includes(s))
          : [...pick.chosen, ...ids],
      );
  } else if (e.key.toLowerCase() === 'f') toggleFold(id);
  else if (e.key.startsWith('Arrow')) {
    const here = places.value.get(id)!;
    const across = e.key === 'ArrowLeft' || e.key === 'ArrowRight';
    const sign = e.key === 'ArrowRight' || e.key === 'ArrowDown' ? 1 : -1;
    let best: { id: string; far: number } | null = null;
    for (const [other, p] of places.value) {
      const along = (across ? p.x - here.x : p.y - here.y) * sign;
      const aside = Math.abs(across ? p.y - here.y : p.x - here.x);
      if (along <= 4 || (!across && aside > 80)) continue;
      const far = along + 2 * aside;
      if (!best || far < best.far) best = { id: other, far };
    }
    if (best)
      document.querySelector<HTMLElement>(`.vue-flow__node[data-id="${CSS.escape(best.id)}"]`)?.focus();
  } else return;
  e.preventDefault();
  e.stopPropagation();
}

// — files —
function save(name: string, type: string, text: string) {
  const url = URL.createObjectURL(new Blob([text], { type }));
  const a = document.createElement('a');
  a.href = url;
  a.download = `${doc.value.name}${name}`;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}
const exports = computed(() => [
  {
    label: 'Diagram, SVG',
    run: () => save('.svg', 'image/svg+xml', diagramSvg(doc.value.name, graph.value, places.value)),
  },
  { label: 'Graph, DOT', run: () => save('.dot', 'text/vnd.graphviz', writeDot(doc.value)) },
  { label: 'Graph, GraphML', run: () => save('.graphml', 'application/xml', writeGraphml(doc.value)) },
  { label: 'Patch list, CSV', run: () => save(' patch.csv', 'text/csv', writePatchList(doc.value)) },
]);
const file = ref<HTMLInputElement | null>(null);
const patch = shallowRef<{
  name: string;
  commands: readonly Command[];
  problems: readonly string[];
  matched: number;
} | null>(null);
async function chosen(e: Event) {
  const input = e.target as HTMLInputElement;
  const picked = input.files?.[0];
  input.value = '';
  if (!picked) return;
  try {
    patch.value = { name: picked.name, ...readPatchList(session.document!, await picked.text()) };
  } catch (error) {
    notices.refused(error);
  }
}
function applyPatch() {
  if (patch.value && session.commit(`patch list ${patch.value.name}`, patch.value.commands))
    patch.value = null;
}
const allFolded = computed(
  () => families.value.length > 0 && families.value.every((f) => folded.value.has(f)),
);
const kinds = [
  { name: 'out', kind: 'out', tap: null },
  { name: 'post-fader', kind: 'send', tap: 'post' },
  { name: 'pre-fader', kind: 'send', tap: 'pre' },
  { name: 'input', kind: 'send', tap: 'input' },
  { name: 'key', kind: 'key', tap: null },
] as const;
</script>

<template>
  <div class="view">
    <div class="main">
      <div class="bar" role="toolbar" aria-label="Flow">
        <button
          class="plain boxed"
          :disabled="!families.length"
          @click="folded = allFolded ? new Set() : new Set(families)"
        >
          {{ allFolded ? 'Open all families' : 'Fold all families' }}
        </button>
        <button class="plain boxed" @click="fitView(WHOLE)">Show all</button>
        <button
          class="plain boxed"
          @click="actions.openMenu('Save', exports, $event.currentTarget as Element)"
        >
          Save…
        </button>
        <button class="plain boxed" @click="file?.click()">Read a patch list…</button>
        <span class="legend" aria-label="Lines">
          <span v-for="k in kinds" :key="k.name"
            ><svg width="34" height="8" aria-hidden="true">
              <path d="M0 4h34" :stroke-dasharray="dashOf(k)" /></svg
            >{{ k.name }}</span
          >
        </span>
        <span v-if="laying" class="soft" role="status">Laying out…</span>
      </div>
      <div class="canvas" @keydown="key">
        <VueFlow
          id="flow"
          :nodes="nodes"
          :edges="edges"
          :node-types="nodeTypes"
          :nodes-draggable="false"
          :elements-selectable="false"
          :nodes-focusable="true"
          :edges-focusable="true"
          :is-valid-connection="mayConnect"
          :min-zoom="0.1"
          :max-zoom="2"
          :delete-key-code="null"
          :zoom-on-double-click="false"
          :only-render-visible-elements="graph.nodes.length > 150"
        />
      </div>
      <PickBar
        hint="Click nodes to pick them, Ctrl for more. Draw from a right edge to a left edge to connect; click a line to change it. F folds a family."
      />
    </div>
    <Inspector v-if="settings.inspector" @add-stems="actions.choosing++" />
    <input
      ref="file"
      class="offscreen"
      type="file"
      accept=".csv,text/csv"
      tabindex="-1"
      aria-label="Patch list"
      @change="chosen"
    />
    <v-dialog :model-value="patch !== null" max-width="640" @update:model-value="$event || (patch = null)">
      <div v-if="patch" class="panel dialog" role="dialog" aria-label="Patch list">
        <h2>{{ patch.name }}</h2>
        <p class="soft">{{ patch.matched }} of its rows name a strip of this session.</p>
        <ul v-if="patch.problems.length" class="problems">
          <li v-for="p in patch.problems.slice(0, 8)" :key="p">{{ p }}</li>
          <li v-if="patch.problems.length > 8">and {{ patch.problems.length - 8 }} more</li>
        </ul>
        <ChangePreview :commands="patch.commands" />
        <div class="buttons">
          <button class="plain primary" :disabled="!patch.commands.length" @click="applyPatch">
            Apply it
          </button>
          <button class="plain boxed" @click="patch = null">Leave it</button>
        </div>
      </div>
    </v-dialog>
  </div>
</template>

<style scoped>
.view {
  display: flex;
  flex: 1;
  min-height: 0;
}
.main {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 6px 10px;
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
  white-space: nowrap;
  overflow: hidden;
}
.legend {
  display: flex;
  gap: 12px;
  margin-left: 10px;
  font-size: 12px;
  color: var(--ink-soft);
}
.legend span {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
.legend path {
  stroke: var(--ink);
  stroke-width: 2;
}
.canvas {
  flex: 1;
  min-height: 0;
  background: var(--sheet);
}
.canvas :deep(.vue-flow__edge-path) {
  stroke: var(--ink-soft);
}
.canvas :deep(.vue-flow__edge.send .vue-flow__edge-path) {
  stroke: var(--send);
}
.canvas :deep(.vue-flow__edge.key .vue-flow__edge-path) {
  stroke: var(--caution);
}
.canvas :deep(.vue-flow__edge.off .vue-flow__edge-path) {
  opacity: 0.3;
}
.canvas :deep(.vue-flow__edge.lit .vue-flow__edge-path) {
  stroke: var(--signal);
}
.canvas :deep(.vue-flow__edge:focus-visible .vue-flow__edge-path),
.canvas :deep(.vue-flow__edge:hover .vue-flow__edge-path) {
  stroke: var(--signal);
}
.canvas :deep(.vue-flow__node:focus-visible) {
  outline: 2px solid var(--signal);
  outline-offset: 2px;
}
.dialog {
  padding: 18px 22px;
}
.dialog h2 {
  font-size: 16px;
  margin: 0;
}
.problems {
  color: var(--caution);
  font-size: 13px;
  padding-left: 18px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
</style>
