import type { Edge as DrawnEdge, Node as DrawnNode } from '@vue-flow/core';
import { useDebounceFn } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import type { Edge } from '@core/session/graph';
import { stripOf } from '@core/session/lookup';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useNotices } from '@/ui/notices';
import { bundleEdge, bundleId, bundlesOf, madeRoom, MANY_SENDS, parallelSends, type Bundle } from './bundles';
import { dashOf, widthOf } from './diagramSvg';
import type { FlowNodeData } from './FlowNodeView.vue';
import { familyNode, flowGraph, foldable, type FlowEdge } from './flowModel';
import { layOut, type PlacedNode } from './layout';
import { kindWord } from '@/session/words';
import { say } from './texts';

/** More sources than this, and families begin folded. */
const MANY = 24;
/** How long the session has to rest before it is laid out, and how long a drawing takes. */
const REST_MS = 60;

/**
 * The session as nodes and edges with their places.
 * @param fit brings nodes into view, or all of them
 */
export function useFlowGraph(fit: (ids: readonly string[] | null) => void) {
  const session = useSession();
  const pick = usePick();
  const marks = useMarks();
  const notices = useNotices();
  const doc = computed(() => session.shown!);

  // — folded families —
  const folded = shallowRef<ReadonlySet<string>>(new Set());
  const families = computed(() => foldable(doc.value));
  const allFolded = computed(
    () => families.value.length > 0 && families.value.every((f) => folded.value.has(f)),
  );
  watch(
    () => session.id,
    () => {
      const many = doc.value.strips.filter((s) => s.kind === 'source').length > MANY;
      folded.value = new Set(many ? families.value : []);
    },
    { immediate: true },
  );
  function toggleFold(node: string) {
    const family =
      families.value.find((f) => familyNode(f) === node) ??
      (node.startsWith('family:') || stripOf(doc.value, node).kind !== 'source'
        ? null
        : stripOf(doc.value, node).family);
    if (family === null || !families.value.includes(family)) return;
    const next = new Set(folded.value);
    if (!next.delete(family)) next.add(family);
    folded.value = next;
  }
  const toggleAll = () => (folded.value = new Set(allFolded.value ? [] : families.value));

  // — where things stand —
  const graph = computed(() => flowGraph(doc.value, folded.value));
  /** Whether sends of sources share lines; null: where there are many. */
  const bundling = ref<boolean | null>(null);
  const parallel = computed(() => parallelSends(graph.value));
  const bundled = computed(() => bundling.value ?? parallel.value > MANY_SENDS);
  /** What decides where things stand; levels do not. */
  const structure = computed(() =>
    [
      bundled.value,
      ...graph.value.nodes.map((n) => n.id),
      '|',
      ...graph.value.edges.map((e) => `${e.from}>${e.to}`),
    ].join(' '),
  );
  const placed = shallowRef<ReadonlyMap<string, PlacedNode>>(new Map());
  const places = computed(() => (bundled.value ? madeRoom(graph.value, placed.value) : placed.value));
  const bundles = computed<readonly Bundle[]>(() =>
    bundled.value ? bundlesOf(graph.value, places.value) : [],
  );
  function toggleBundles() {
    bundling.value = !bundled.value;
    first = true;
  }
  const laying = ref(true);
  let first = true;
  /** After families were folded or opened, what is picked is brought into view. */
  let refit = false;
  let asked = 0;
  const place = useDebounceFn(async () => {
    const mine = ++asked;
    laying.value = true;
    try {
      const next = await layOut(graph.value, bundled.value);
      if (mine !== asked) return;
      placed.value = next;
      if (first || refit) {
        const ids = first ? [] : nodes.value.filter((n) => n.data!.picked).map((n) => n.id);
        first = refit = false;
        await nextTick();
        await new Promise((drawn) => setTimeout(drawn, REST_MS));
        fit(ids.length ? ids : null);
      }
    } catch (error) {
      notices.refused(error);
    }
    laying.value = false;
  }, REST_MS);
  watch(folded, () => (refit = true), { flush: 'sync' });
  watch(
    structure,
    () => {
      laying.value = true;
      void place();
    },
    { immediate: true },
  );

  // — what is drawn —
  const litEdge = (e: Edge) => {
    const rows = marks.lit.get(e.from)?.split(' ');
    return (
      rows !== undefined &&
      (e.kind === 'out' ? rows.includes('out') : e.kind === 'send' && rows.includes(`send:${e.to}`))
    );
  };
  const nodeName = (id: string) => graph.value.nodes.find((n) => n.id === id)?.name ?? id;
  const stripsOf = (id: string) => graph.value.nodes.find((n) => n.id === id)?.strips ?? [];
  /** Nodes that a new connection must not reach: they lead to where it begins. */
  const barred = shallowRef<ReadonlySet<string>>(new Set());
  const nodes = computed<DrawnNode<FlowNodeData>[]>(() =>
    graph.value.nodes
      .filter((n) => places.value.has(n.id))
      .map((n) => {
        const picked = n.strips.some((s) => pick.chosen.has(s));
        return {
          id: n.id,
          type: 'strip',
          position: places.value.get(n.id)!,
          ariaLabel: say(picked ? 'picked' : 'notPicked', {
            name: n.name,
            kind: n.kind === 'family' ? say('family') : kindWord(n.kind),
          }),
          data: {
            node: n,
            picked,
            traced: n.strips.some((s) => marks.lit.has(s)),
            silent: n.muted || n.strips.every((s) => !session.audible.has(s)),
            barred: barred.value.has(n.id),
            findings: n.strips.flatMap((s) => marks.words.get(s) ?? []).join('\n'),
          },
        };
      }),
  );
  /** The line of each send that is bundled. */
  const lineOf = computed(
    () => new Map(bundles.value.flatMap((b) => b.edges.map((e) => [e.id, b] as const))),
  );
  const asEdge = (b: Bundle) => bundleEdge(b, nodeName(b.to));
  /** What is drawn under an id: an edge, or a bundle of them. */
  const edgeOf = (id: string): FlowEdge | undefined => {
    const bundle = bundles.value.find((b) => b.id === id);
    return bundle ? asEdge(bundle) : graph.value.edges.find((e) => e.id === id);
  };
  const trunks = computed<DrawnEdge[]>(() =>
    bundles.value.map((b) => {
      const edge = asEdge(b);
      const lit = edge.edges.some(litEdge);
      return {
        id: bundleId(b.to),
        type: 'trunk',
        source: b.edges[0]!.from,
        target: b.to,
        label: edge.label,
        ariaLabel: null,
        class: ['send trunk', edge.on ? '' : 'off', lit ? 'lit' : ''].join(' '),
        style: { strokeWidth: `${Math.min(4, 1 + Math.sqrt(b.edges.length) / 3)}px` },
        data: { bundle: b },
      };
    }),
  );
  /** What is lit lies over its like. */
  const edges = computed<DrawnEdge[]>(() => {
    const isLit = ({ class: named }: DrawnEdge) =>
      typeof named === 'string' && named.endsWith(' lit') ? 1 : 0;
    return [...trunks.value, ...lines.value].sort((a, b) => isLit(a) - isLit(b));
  });
  const lines = computed<DrawnEdge[]>(() =>
    graph.value.edges
      .filter((e) => places.value.has(e.from) && places.value.has(e.to))
      .map((e) => {
        const lit = e.edges.some(litEdge);
        const bundle = lineOf.value.get(e.id);
        const words = say('nodenameToNodename2E', {
          nodeName: nodeName(e.from),
          nodeName2: nodeName(e.to),
          e: e.label,
        });
        return {
          id: e.id,
          type: bundle ? 'knot' : 'line',
          label: words,
          // What is in it bears its name.
          ariaLabel: null,
          // What an edge was before is kept where it is not said anew.
          data: bundle ? { edge: e, x: bundle.x } : undefined,
          // Knots lie over lines, so that they can be clicked; no node stands where they are.
          zIndex: bundle ? 1 : 0,
          source: e.from,
          target: e.to,
          class: [e.kind, e.on ? '' : 'off', lit ? 'lit' : ''].join(' '),
          style: { strokeWidth: `${widthOf(e) + (lit ? 1 : 0)}px`, strokeDasharray: dashOf(e) },
        };
      }),
  );

  return {
    doc,
    graph,
    places,
    laying,
    nodes,
    edges,
    barred,
    bundled,
    bundles,
    parallel,
    toggleBundles,
    edgeOf,
    families,
    allFolded,
    toggleFold,
    toggleAll,
    nodeName,
    stripsOf,
  };
}
