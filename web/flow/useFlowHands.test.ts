import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { computed, ref, shallowRef } from 'vue';
import { setFeatures, setViews } from '@/commands/feature';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { answer, newPage, said, small, strip } from '@/testing/stores';
import { useMenu } from '@/ui/menu';
import { flow as feature } from './feature';
import { bundleEdge } from './bundles';
import { flowGraph } from './flowModel';
import { useFlowHands } from './useFlowHands';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
/** What the diagram calls when something is done to it. */
const on = vi.hoisted(() => new Map<string, (e: unknown) => void>());
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));
vi.mock('vue-router', () => ({ useRouter: () => ({ push: vi.fn() }) }));
vi.mock('@vue-flow/core', () => ({
  useVueFlow: () =>
    new Proxy({}, { get: (_t, name: string) => (f: (e: unknown) => void) => on.set(name, f) }),
}));

const focused: string[] = [];
function hands() {
  const session = useSession();
  const doc = computed(() => session.shown!);
  const graph = computed(() => flowGraph(doc.value, new Set()));
  const barred = shallowRef<ReadonlySet<string>>(new Set());
  const toggled: string[] = [];
  const it = useFlowHands({
    doc,
    graph,
    places: ref(new Map(doc.value.strips.map((s, i) => [s.id, { x: i * 100, y: 0, width: 80, height: 40 }]))),
    barred,
    bundles: ref([]),
    toggleFold: (id: string) => toggled.push(id),
    nodeName: (id: string) => id.toUpperCase(),
    stripsOf: (id: string) => [id],
    edgeOf: (id: string) =>
      id === 'bundle:main'
        ? bundleEdge(
            {
              ...{ id, to: 'main', x: 0, top: 0, bottom: 0, leaves: 0 },
              edges: graph.value.edges.filter((e) => e.kind === 'send' && e.to === 'main'),
            },
            'Main',
          )
        : graph.value.edges.find((e) => e.id === id),
  } as never);
  return { ...it, barred, toggled };
}
const node = (id: string, more: object = {}) => ({ node: { id }, event: { ctrlKey: false, ...more } });
const lines = () => useMenu().menu!.items.map((i) => i.label);
const choose = (label: string) =>
  useMenu()
    .menu!.items.find((i) => i.label === label)!
    .run();
const keyOn = (h: ReturnType<typeof hands>, id: string, key: string) =>
  h.key({
    key,
    target: { closest: (of: string) => (of.includes('node') ? { getAttribute: () => id } : null) },
    preventDefault: () => {},
    stopPropagation: () => {},
  } as unknown as KeyboardEvent);

beforeEach(async () => {
  newPage();
  focused.length = 0;
  vi.stubGlobal('Element', class {});
  vi.stubGlobal('CSS', { escape: (s: string) => s });
  vi.stubGlobal('document', {
    querySelector: (what: string) => ({
      focus: () => focused.push(/data-id="([^"]+)"/.exec(what)![1]!),
      getBoundingClientRect: () => ({ left: 10, bottom: 20 }),
    }),
    getElementById: () => null,
  });
  setViews([]);
  setFeatures([feature]);
  server.ask.mockReset().mockResolvedValue(answer(small));
  await useSession().open('one');
});
afterEach(() => vi.unstubAllGlobals());

describe('hands on the diagram', () => {
  it('pick a node, more with a key held, and none beside them', () => {
    hands();
    on.get('onNodeClick')!(node('a'));
    on.get('onNodeClick')!(node('b', { shiftKey: true }));
    expect([...usePick().chosen].sort()).toEqual(['a', 'b']);
    on.get('onNodeClick')!(node('a', { ctrlKey: true }));
    expect([...usePick().chosen]).toEqual(['b']);
    on.get('onPaneClick')!(undefined);
    expect(usePick().chosen.size).toBe(0);
  });
  it('bar what a connection would make feed itself, while it is drawn, and say why when it is dropped there', () => {
    const h = hands();
    on.get('onConnectStart')!({ nodeId: 'bus', handleType: 'source' });
    expect([...h.barred.value].sort()).toEqual(['a', 'b']);
    expect(h.mayConnect({ source: 'bus', target: 'a' })).toBe(false);
    expect(h.mayConnect({ source: 'a', target: 'main' })).toBe(true);
    on.get('onConnectEnd')!({ target: { closest: () => ({ getAttribute: () => 'a' }) } });
    expect(said().at(-1)).toMatch(/^A leads to where/);
    expect(h.barred.value.size).toBe(0);
  });
  it('connect what is picked in one step: by the out, or by a send from one of three places', () => {
    hands();
    usePick().set(['a', 'b']);
    on.get('onConnect')!({ source: 'a', target: 'main' });
    expect(lines()).toEqual([
      'By the out',
      'By a post-fader send',
      'By a pre-fader send',
      'By a send from the input',
    ]);
    choose('By a pre-fader send');
    expect(['a', 'b'].map((id) => strip(id).sends.map((s) => [s.to, s.tap]))).toEqual([
      [['main', 'pre']],
      [['main', 'pre']],
    ]);
    useSession().undo();
    expect(strip('a').sends).toEqual([]);
    on.get('onConnect')!({ source: 'a', target: 'main' });
    choose('By the out');
    expect(['a', 'b'].map((id) => strip(id).out.to)).toEqual(['main', 'main']);
    useSession().undo();
    expect(useSession().document).toEqual(small);
  });
  it('change all sends of a bundle at once, in one step', () => {
    hands();
    const sends = [
      ['a', 'post'],
      ['b', 'pre'],
    ] as const;
    useSession().commit(
      'two sends',
      sends.map(([id, tap]) => ({
        type: 'send.add',
        strip: id,
        send: { id: `${id}x`, to: 'main', levelDb: 0, tap, pan: 0, on: true, lanes: {} },
        at: 0,
      })),
    );
    on.get('onEdgeClick')!({ edge: { id: 'bundle:main' }, event: { clientX: 1, clientY: 2 } });
    expect(useMenu().menu!.title).toBe('2 sends into Main');
    // They are tapped in different places: none is marked.
    expect(useMenu().menu!.items.some((i) => i.checked)).toBe(false);
    choose('Pre-fader');
    expect(sends.map(([id]) => strip(id).sends[0]!.tap)).toEqual(['pre', 'pre']);
    useSession().undo();
    expect(sends.map(([id]) => strip(id).sends[0]!.tap)).toEqual(['post', 'pre']);
    on.get('onEdgeClick')!({ edge: { id: 'bundle:main' }, event: { clientX: 1, clientY: 2 } });
    choose('Remove 2 sends');
    expect(sends.flatMap(([id]) => strip(id).sends)).toEqual([]);
  });
  it('change an edge by its menu: its tap, its switch, whether it is there, and its dry path', () => {
    hands();
    useSession().commit('a send', [
      {
        type: 'send.add',
        strip: 'a',
        send: { id: 'x', to: 'main', levelDb: 0, tap: 'post', pan: 0, on: true, lanes: {} },
        at: 0,
      },
    ]);
    const edge = (from: string, to: string) =>
      flowGraph(useSession().document!, new Set()).edges.find((e) => e.from === from && e.to === to)!;
    const click = (from: string, to: string) =>
      on.get('onEdgeClick')!({ edge: { id: edge(from, to).id }, event: { clientX: 1, clientY: 2 } });
    click('a', 'main');
    expect(
      useMenu()
        .menu!.items.filter((i) => i.checked)
        .map((i) => i.label),
    ).toEqual(['Post-fader']);
    choose('Pre-fader');
    expect(strip('a').sends[0]!.tap).toBe('pre');
    click('a', 'main');
    choose('Switch off');
    expect(strip('a').sends[0]!.on).toBe(false);
    click('a', 'main');
    choose('Remove the send');
    expect(strip('a').sends).toEqual([]);
    click('a', 'bus');
    choose('Dry path off');
    expect(strip('a').out.on).toBe(false);
    click('a', 'bus');
    choose('Show A');
    expect([...usePick().chosen]).toEqual(['a']);
  });
  it('go from node to node by arrows, pick and fold by keys', () => {
    const h = hands();
    keyOn(h, 'a', 'ArrowRight');
    expect(focused).toEqual(['b']);
    keyOn(h, 'a', 'ArrowLeft');
    expect(focused).toEqual(['b']);
    keyOn(h, 'b', 'Enter');
    expect([...usePick().chosen]).toEqual(['b']);
    keyOn(h, 'b', 'f');
    expect(h.toggled).toEqual(['b']);
  });
});
