<script setup lang="ts">
import '@vue-flow/core/dist/style.css';
import { VueFlow, useVueFlow, type EdgeComponent, type NodeComponent } from '@vue-flow/core';
import { computed, markRaw, shallowRef, useTemplateRef } from 'vue';
import { writeDot, writeGraphml } from '@core/formats/graphExport';
import { readPatchList, writePatchList } from '@core/formats/patchList';
import { useSession } from '@/session/session';
import { tapWord } from '@/session/words';
import FilePick from '@/ui/FilePick.vue';
import { useMenu } from '@/ui/menu';
import { useNotices } from '@/ui/notices';
import { saveFile } from '@/ui/saveFile';
import { dashOf, diagramSvg } from './diagramSvg';
import { NODE_HEIGHT, NODE_WIDTH } from './layout';
import FlowNodeView from './FlowNodeView.vue';
import LineEdge from './LineEdge.vue';
import KnotEdge from './KnotEdge.vue';
import TrunkEdge from './TrunkEdge.vue';
import PatchListDialog, { type ReadPatch } from './PatchListDialog.vue';
import { useFlowGraph } from './useFlowGraph';
import { useFlowHands } from './useFlowHands';
import { say } from './texts';

/** The session as a diagram from sources to outputs. */
const session = useSession();
const menu = useMenu();
const notices = useNotices();
const { fitView, setViewport, dimensions } = useVueFlow('flow');
/** The whole graph, as far as names can be read. */
const WHOLE = { padding: 0.06, minZoom: 0.55, maxZoom: 1.4 };
/** Pixels between the edge of the view and the sources, where not all of it fits. */
const EDGE = 24;
/** Brings all into view; what is too large for that, from where its sources begin. */
function fitWhole() {
  const all = [...places.value.values()];
  const spans = (['x', 'y'] as const).map((axis) => {
    const least = Math.min(...all.map((p) => p[axis]));
    const size = axis === 'x' ? NODE_WIDTH : NODE_HEIGHT;
    return { least, room: Math.max(...all.map((p) => p[axis])) + size - least };
  });
  const [x, y] = spans as [(typeof spans)[0], (typeof spans)[0]];
  const { width, height } = dimensions.value;
  const most = Math.min((width - 2 * EDGE) / x.room, (height - 2 * EDGE) / y.room);
  if (most >= WHOLE.minZoom || !all.length) return void fitView(WHOLE);
  // As wide as it is, if its names can be read then: it goes on below.
  const zoom = Math.min(1, Math.max(WHOLE.minZoom, (width - 2 * EDGE) / x.room));
  void setViewport({ x: EDGE - x.least * zoom, y: EDGE - y.least * zoom, zoom });
}
const flow = useFlowGraph((ids) =>
  ids ? void fitView({ ...WHOLE, nodes: [...ids], minZoom: 0.3, maxZoom: 1 }) : fitWhole(),
);
const {
  doc,
  graph,
  places,
  laying,
  nodes,
  edges,
  families,
  allFolded,
  toggleAll,
  bundled,
  bundles,
  parallel,
  toggleBundles,
} = flow;
const { key, mayConnect } = useFlowHands(flow);
const nodeTypes = { strip: markRaw(FlowNodeView) as NodeComponent };
const edgeTypes = {
  line: markRaw(LineEdge) as EdgeComponent,
  knot: markRaw(KnotEdge) as EdgeComponent,
  trunk: markRaw(TrunkEdge) as EdgeComponent,
};

// — files —
const save = (suffix: string, type: string, text: string) =>
  saveFile(`${doc.value.name}${suffix}`, type, text);
const exports = computed(() => [
  {
    label: say('diagramSvg'),
    run: () =>
      save('.svg', 'image/svg+xml', diagramSvg(doc.value.name, graph.value, places.value, bundles.value)),
  },
  { label: say('graphDot'), run: () => save('.dot', 'text/vnd.graphviz', writeDot(doc.value)) },
  { label: say('graphGraphml'), run: () => save('.graphml', 'application/xml', writeGraphml(doc.value)) },
  { label: say('patchListCsv'), run: () => save(' patch.csv', 'text/csv', writePatchList(doc.value)) },
]);
const file = useTemplateRef('file');
const patch = shallowRef<ReadPatch | null>(null);
async function read([picked]: File[]) {
  if (!picked) return;
  try {
    patch.value = { name: picked.name, ...readPatchList(session.document!, await picked.text()) };
  } catch (error) {
    notices.refused(error);
  }
}
const KINDS = [
  { name: say('out'), kind: 'out', tap: null },
  { name: tapWord('post'), kind: 'send', tap: 'post' },
  { name: tapWord('pre'), kind: 'send', tap: 'pre' },
  { name: tapWord('input'), kind: 'send', tap: 'input' },
  { name: say('key'), kind: 'key', tap: null },
] as const;
</script>

<template>
  <div class="flow flex-1-1-0 min-h-0 d-flex flex-column" :aria-busy="laying">
    <div
      class="row bar ga-1 py-1 px-2 border-b text text-no-wrap flex-wrap"
      role="toolbar"
      :aria-label="say('flow')"
    >
      <v-btn variant="outlined" :disabled="!families.length" @click="toggleAll">{{
        allFolded ? say('openAllFamilies') : say('foldAllFamilies')
      }}</v-btn>
      <v-btn variant="outlined" :disabled="!parallel" @click="toggleBundles">{{
        bundled ? say('eachSendByItself') : say('bundleSends')
      }}</v-btn>
      <v-btn variant="outlined" @click="fitWhole">{{ say('showAll') }}</v-btn>
      <v-btn variant="outlined" @click="menu.open(say('saveAs'), exports, $event.currentTarget as Element)">{{
        say('saveAsAsk')
      }}</v-btn>
      <v-btn variant="outlined" @click="file?.choose()">{{ say('readAPatchList') }}</v-btn>
      <span class="legend d-flex ga-3 ms-2 small soft" :aria-label="say('lines')">
        <span v-for="k in KINDS" :key="k.name"
          ><svg width="34" height="8" aria-hidden="true">
            <path d="M0 4h34" :stroke-dasharray="dashOf(k)" /></svg
          >{{ k.name }}</span
        >
      </span>
      <span v-if="laying" class="soft" role="status">{{ say('layingOut') }}</span>
    </div>
    <div class="canvas flex-1-1-0 min-h-0 bg-sheet" @keydown="key">
      <VueFlow
        id="flow"
        :nodes="nodes"
        :edges="edges"
        :node-types="nodeTypes"
        :edge-types="edgeTypes"
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
    <FilePick ref="file" :label="say('patchList')" accept=".csv,text/csv" @files="read" />
    <PatchListDialog v-if="patch" :patch="patch" @close="patch = null" />
  </div>
</template>

<style scoped>
.legend span {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
.legend path {
  stroke: var(--ink);
  stroke-width: 2;
}
.canvas :deep(.vue-flow__edge) {
  --line: var(--ink-soft);
}
.canvas :deep(.vue-flow__edge.send) {
  --line: var(--send);
}
.canvas :deep(.vue-flow__edge.key) {
  --line: var(--caution);
}
.canvas :deep(.vue-flow__edge:is(.lit, :hover, :focus-within)) {
  --line: var(--signal);
}
.canvas :deep(.vue-flow__edge.off) {
  opacity: 0.3;
}
.canvas :deep(.vue-flow__edge-path) {
  stroke: var(--line);
}
.canvas :deep(.vue-flow__node:focus-visible) {
  outline: 2px solid var(--signal);
  outline-offset: 2px;
}
</style>
