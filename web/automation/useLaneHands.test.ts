import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { computed, effectScope, nextTick, reactive, ref, type EffectScope } from 'vue';
import { findControl } from '@core/automation/control';
import { newInsert } from '@core/session/defaults';
import type { Lane, Session } from '@core/session/types';
import { setFeatures, setViews } from '@/commands/feature';
import { useSession } from '@/session/session';
import { answer, newPage, said, small, strip } from '@/testing/stores';
import { automation } from './feature';
import { PAD, useLaneShape, type LaneProps } from './laneShape';
import { useLaneHands } from './useLaneHands';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
// There is no component here, and no field to type in.
vi.mock('vue', async (original) => ({
  ...(await original<object>()),
  useTemplateRef: () => ({ value: null }),
}));
vi.mock('vue-router', () => ({ useRouter: () => ({ push: vi.fn() }) }));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));

const lane: Lane = [
  [1, -12],
  [5, -6],
];
const session: Session = {
  ...small,
  strips: small.strips.map((s) =>
    s.id === 'a' ? { ...s, lanes: { fader: lane }, inserts: [newInsert({ id: 'i', type: 'limiter' })] } : s,
  ),
};
/** Ten seconds in 1,000 pixels, 116 high: 100 pixels a second, and 100 along the travel. */
const WIDTH = 1000 + 2 * PAD;
const ref_ = { part: 'strip', owner: 'a', id: null, control: 'fader' } as const;

let scope: EffectScope;
function hands() {
  const store = useSession();
  const placed = computed(() => findControl(store.document!, ref_)!);
  const props = reactive({
    placed,
    colour: '#888888',
    span: { start: 0, length: 10 },
    grid: [],
    height: 116,
  }) as unknown as LaneProps;
  const plot = ref({
    getBoundingClientRect: () => ({ left: 0, top: 0 }),
    focus: () => {},
  } as unknown as SVGSVGElement);
  const lane = computed(() => placed.value.lane);
  const shape = useLaneShape(props, ref(WIDTH), lane, ref(false));
  const it = useLaneHands(
    props,
    plot,
    shape,
    computed(() => 'Level'),
    computed(() => 'Level A'),
  );
  const at = (t: number, v: number | null, more: object = {}) =>
    ({
      pointerId: 1,
      button: 0,
      clientX: PAD + t * 100,
      clientY: 8 + (1 - placed.value.control.travelOf(v)) * 100,
      currentTarget: { setPointerCapture: () => {} },
      ...more,
    }) as unknown as PointerEvent;
  return { ...it, at, send: (name: string, e: PointerEvent) => it.drag.on[name]!(e) };
}
const points = (s: Session | null = useSession().document) =>
  s!.strips.find((x) => x.id === 'a')!.lanes.fader ?? [];

beforeEach(async () => {
  newPage();
  setViews([]);
  setFeatures([automation]);
  vi.stubGlobal('document', { querySelector: () => null, activeElement: null });
  server.ask.mockReset().mockResolvedValue(answer(session));
  await useSession().open('one');
  scope = effectScope();
});
afterEach(() => {
  scope.stop();
  vi.unstubAllGlobals();
});

describe('a hand on a lane', () => {
  it('makes a point where it presses, carries it, and leaves one step to undo', () => {
    const h = scope.run(hands)!;
    h.send('pointerdown', h.at(3, -20));
    expect(points(useSession().present())).toHaveLength(3);
    expect(points()).toEqual(lane);
    h.send('pointermove', h.at(4, -20));
    h.send('pointerup', h.at(4, -20));
    expect(points().map(([t]) => t)).toEqual([1, 4, 5]);
    expect(points()[1]![1]).toBeCloseTo(-20, 1);
    useSession().undo();
    expect(points()).toEqual(lane);
  });
  it('takes a point that is near, moves it by time and value, finely with Shift, and never past its neighbours’ order', () => {
    const h = scope.run(hands)!;
    h.send('pointerdown', h.at(1, -12));
    h.send('pointermove', h.at(9, -12));
    h.send('pointerup', h.at(9, -12));
    const times = points().map(([t]) => t);
    expect(times).toEqual([...times].sort((a, b) => a - b));
    expect(points()).toHaveLength(2);
    useSession().undo();
    const wide = { ...h.at(1, -12), clientY: h.at(1, -12).clientY - 40, shiftKey: true } as PointerEvent;
    h.send('pointerdown', h.at(1, -12));
    h.send('pointermove', wide);
    h.send('pointerup', wide);
    const travel = findControl(session, ref_)!.control.travelOf;
    expect(travel(points()[0]![1]) - travel(-12)).toBeCloseTo(0.04, 3);
  });
  it('keeps the time with Ctrl, and takes a point out with Alt', () => {
    const h = scope.run(hands)!;
    const down = { ...h.at(7, -30), ctrlKey: true } as PointerEvent;
    h.send('pointerdown', h.at(1, -12));
    h.send('pointermove', down);
    h.send('pointerup', down);
    expect(points()[0]![0]).toBe(1);
    expect(points()[0]![1]).toBeCloseTo(-30, 1);
    h.send('pointerdown', h.at(5, -6, { altKey: true }));
    expect(points()).toHaveLength(1);
    expect(h.drag.held.value).toBeNull();
  });
  it('leaves everything as it was where the system takes it away', () => {
    const h = scope.run(hands)!;
    h.send('pointerdown', h.at(3, -20));
    h.send('pointermove', h.at(4, -3));
    h.send('pointercancel', h.at(4, -3));
    expect(points(useSession().present())).toEqual(lane);
    expect(useSession().undoLabel).toBeNull();
  });
  it('that only presses a point edits nothing', () => {
    const h = scope.run(hands)!;
    h.send('pointerdown', h.at(1, -12));
    h.send('pointerup', h.at(1, -12));
    expect(h.selected.value).toBe(0);
    expect(useSession().undoLabel).toBeNull();
  });
});

describe('a lane by its keys', () => {
  const key = (h: ReturnType<typeof hands>, key: string, more: object = {}) => {
    let stopped = false;
    h.keys({
      key,
      code: '',
      preventDefault: () => (stopped = true),
      stopPropagation: () => {},
      ...more,
    } as unknown as KeyboardEvent);
    return stopped;
  };
  it('goes along the points, types a value, and says what is none', async () => {
    const h = scope.run(hands)!;
    expect(key(h, 'ArrowRight')).toBe(true);
    expect(h.selected.value).toBe(0);
    key(h, 'ArrowRight');
    expect(h.selected.value).toBe(1);
    expect(key(h, 'F13')).toBe(false);
    key(h, 'Enter');
    await nextTick();
    expect(h.typing.value).toBe('-6.0 dB');
    h.typing.value = 'loud';
    h.typed();
    expect(said().at(-1)).toMatch(/loud/);
    expect(points()).toEqual(lane);
    h.typing.value = '-9';
    h.typed();
    expect(points()[1]).toEqual([5, -9]);
    expect(strip('a').lanes.fader).toHaveLength(2);
  });
  it('takes a point out, and the last one takes the lane with it', () => {
    const h = scope.run(hands)!;
    key(h, 'ArrowRight');
    key(h, 'Delete');
    key(h, 'Delete');
    expect(useSession().document!.strips.find((s) => s.id === 'a')!.lanes).toEqual({});
    expect(key(h, 'ArrowUp')).toBe(false);
  });
});
