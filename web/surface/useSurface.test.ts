import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { disposePinia, getActivePinia } from 'pinia';
import { nextTick } from 'vue';
import simulatedV1 from '@core/surface/profile/fixtures/version1.json';
import { levelAt } from '@core/levels/faderLaw';
import { newDesk } from '@core/surface/desk/desk';
import { simulatedFaders } from '@core/surface/stands/motorFaders';
import { useSession } from '@/session/session';
import { answer, newPage, said, small } from '@/testing/stores';
import { useSurface } from './useSurface';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));
const router = vi.hoisted(() => ({ push: vi.fn() }));
vi.mock('vue-router', () => ({ useRouter: () => router }));

/** A plain fader box: one fader, as no stand-in speaks, in the first version of the format. */
const box = {
  ...simulatedV1,
  id: 'box',
  name: 'Fader box',
  simulated: false,
  width: 1,
  controls: [
    {
      id: 'f1',
      kind: 'fader',
      position: 0,
      in: { type: 'control14', channel: 3, controller: 7 },
      out: { type: 'control14', channel: 3, controller: 7 },
      touch: { type: 'note', channel: 3, note: 1 },
    },
  ],
};
let kept: { desks: unknown[]; profiles: unknown[] } = { desks: [], profiles: [] };

beforeEach(async () => {
  newPage();
  kept = { desks: [], profiles: [] };
  server.ask.mockReset().mockImplementation(async (_method: string, path: string) => {
    if (path === '/desks') return { desks: kept.desks };
    if (path === '/surface-profiles') return { profiles: kept.profiles };
    if (path === '/sessions')
      return {
        sessions: [
          { id: 'one', name: 'One' },
          { id: 'two', name: 'Two' },
        ],
      };
    return answer(small);
  });
  await useSession().open('one');
});
// A desk that goes on working would make its own stores the active ones again.
afterEach(() => {
  disposePinia(getActivePinia()!);
  vi.unstubAllGlobals();
});

/** A browser's MIDI: it keeps to the interface of the Web MIDI API (W3C Working Draft, 4.1 to 4.6). */
class FakePort {
  state = 'connected';
  connection = 'closed';
  onmidimessage: ((e: { data: Uint8Array }) => void) | null = null;
  readonly sent: number[] = [];
  readonly version = '1';
  readonly manufacturer = '';
  constructor(
    readonly id: string,
    readonly name: string,
    readonly type: 'input' | 'output',
  ) {}
  async open() {
    this.connection = 'open';
    return this;
  }
  async close() {
    this.connection = 'closed';
    return this;
  }
  send(bytes: number[]) {
    if (this.state !== 'connected') throw new DOMException('The port is away.', 'InvalidStateError');
    this.sent.push(...bytes);
  }
}
class FakeAccess {
  readonly inputs = new Map<string, FakePort>();
  readonly outputs = new Map<string, FakePort>();
  onstatechange: (() => void) | null = null;
  readonly sysexEnabled = true;
  plug(name: string, id: string) {
    const input = new FakePort(`${id} in`, name, 'input');
    const output = new FakePort(`${id} out`, name, 'output');
    this.inputs.set(input.id, input);
    this.outputs.set(output.id, output);
    this.onstatechange?.();
    return { input, output };
  }
  pull(id: string) {
    for (const list of [this.inputs, this.outputs])
      for (const port of list.values()) if (port.id.startsWith(`${id} `)) port.state = 'disconnected';
    this.onstatechange?.();
  }
}
const settled = async () => {
  for (let i = 0; i < 6; i++) await new Promise((done) => setTimeout(done, 5));
};
async function withMidi() {
  const access = new FakeAccess();
  vi.stubGlobal('navigator', { requestMIDIAccess: async () => access });
  kept.profiles = [box];
  const surface = useSurface();
  await surface.load();
  await surface.ports.look();
  return { surface, access };
}
const onBox = (surface: ReturnType<typeof useSurface>, input = 'Box', nth = 0) => {
  surface.setDesk({ units: [] });
  return surface.addUnit(surface.profile('box')!, { type: 'midi', input, output: input, nth });
};
// Well above half way: controllers 7 and 39 on channel 3.
const HIGH = Uint8Array.of(0xb2, 7, 90, 0xb2, 39, 0);
const levelOf = (i: number) => useSession().present()!.strips[i]!.faderDb;

it('profiles that were kept are read, of the version before too, and a device speaks by the one that its unit has', async () => {
  const { surface, access } = await withMidi();
  expect(surface.profiles.map((p) => p.id)).toContain('box');
  const { input, output } = access.plug('Box', 'b');
  onBox(surface);
  await settled();
  expect(input.connection).toBe('open');
  expect(output.sent.length).toBeGreaterThan(0);
  input.onmidimessage!({ data: HIGH });
  expect(levelOf(0)).not.toBe(small.strips[0]!.faderDb);
});
it('of two devices of one name, each moves its own', async () => {
  const { surface, access } = await withMidi();
  const first = access.plug('Box', 'a');
  const second = access.plug('Box', 'b');
  onBox(surface);
  surface.addUnit(surface.profile('box')!, { type: 'midi', input: 'Box', output: 'Box', nth: 1 });
  await settled();
  second.input.onmidimessage!({ data: HIGH });
  expect(levelOf(0)).toBe(small.strips[0]!.faderDb);
  expect(levelOf(1)).not.toBe(small.strips[1]!.faderDb);
  first.input.onmidimessage!({ data: HIGH });
  expect(levelOf(0)).not.toBe(small.strips[0]!.faderDb);
});
it('a device that goes away in the middle of a drag: the drag is kept as one edit, and goes on when it comes back', async () => {
  const { surface, access } = await withMidi();
  const { input } = access.plug('Box', 'b');
  onBox(surface);
  await settled();
  input.onmidimessage!({ data: Uint8Array.of(0x92, 1, 127) });
  input.onmidimessage!({ data: HIGH });
  expect(useSession().undoLabel).toBeNull();
  access.pull('b');
  await settled();
  expect(useSession().undoLabel).toBe('level A');
  expect(said().some((t) => t.includes('has gone away'))).toBe(true);
  expect(surface.ports.there.size).toBe(0);
  const again = access.plug('Box', 'c');
  await settled();
  expect(surface.ports.there.size).toBe(1);
  // It is told everything anew.
  expect(again.output.sent.length).toBeGreaterThan(0);
});
/** Locks of a browser, shared by its windows: Web Locks API, W3C, as far as one name at a time goes. */
class FakeLocks {
  private readonly held = new Map<string, (error: Error) => void>();
  private readonly waiting: (() => void)[] = [];
  async request(
    name: string,
    options: { signal?: AbortSignal; steal?: boolean },
    work: () => Promise<void>,
  ): Promise<void> {
    if (options.steal) this.held.get(name)?.(new DOMException('Stolen.', 'AbortError'));
    while (!options.steal && this.held.has(name)) {
      await new Promise<void>((done, fail) => {
        this.waiting.push(done);
        options.signal?.addEventListener('abort', () => fail(new DOMException('Given up.', 'AbortError')));
      });
    }
    let own: (error: Error) => void = () => {};
    const stolen = new Promise<void>((_, fail) => (own = fail));
    this.held.set(name, own);
    try {
      await Promise.race([work(), stolen]);
    } finally {
      if (this.held.get(name) === own) this.held.delete(name);
      this.waiting.splice(0).forEach((go) => go());
    }
  }
}
it('a device is heard by one window of the browser alone, and taken over by another when that is asked for', async () => {
  const access = new FakeAccess();
  const locks = new FakeLocks();
  vi.stubGlobal('navigator', { requestMIDIAccess: async () => access, locks });
  kept.profiles = [box];
  const { input } = access.plug('Box', 'b');
  // Another window has it.
  let taken = false;
  void locks
    .request(`zonula midi ${input.id}`, {}, () => new Promise<void>(() => {}))
    .catch(() => (taken = true));
  const surface = useSurface();
  await surface.load();
  await surface.ports.look();
  const unit = onBox(surface);
  await new Promise((done) => setTimeout(done, 300));
  expect(surface.ports.there.has(unit)).toBe(false);
  expect(surface.ports.elsewhere.has(unit)).toBe(true);
  surface.ports.takeOver(unit);
  await settled();
  expect(taken).toBe(true);
  expect(surface.ports.there.has(unit)).toBe(true);
  expect(surface.ports.elsewhere.has(unit)).toBe(false);
  input.onmidimessage!({ data: HIGH });
  expect(levelOf(0)).not.toBe(small.strips[0]!.faderDb);
  // Pulled out, it is let go: another window may have it.
  access.pull('b');
  await settled();
  let free = false;
  await locks.request(`zonula midi ${input.id}`, {}, async () => void (free = true));
  expect(free).toBe(true);
});
it('garbage and a flood do nothing but what they say', async () => {
  const { surface, access } = await withMidi();
  const { input } = access.plug('Box', 'b');
  onBox(surface);
  await settled();
  for (let i = 0; i < 2000; i++)
    input.onmidimessage!({ data: Uint8Array.of((i * 31) & 0xff, (i * 7) & 0x7f, 0xf7) });
  for (let i = 0; i < 2000; i++)
    input.onmidimessage!({ data: Uint8Array.of(0xb2, 7, (i * 13) & 127, 0xb2, 39, i & 127) });
  input.onmidimessage!({ data: HIGH });
  // The last value is the one that stays.
  await settled();
  expect(levelOf(0)).toBeCloseTo(levelAt((90 << 7) / 16383)!, 2);
});
it('what the server cannot give is told, and the stand-ins stay', async () => {
  const surface = useSurface();
  await settled();
  server.ask.mockRejectedValue(new Error('The server is away.'));
  await surface.load();
  expect(surface.profiles).toHaveLength(3);
  expect(said()).toEqual(['The server is away.']);
});
it('the desk of the studio is taken up as it was kept, and what is changed of it is kept', async () => {
  kept.desks = [{ ...newDesk('desk', 'Mine', [simulatedFaders, simulatedFaders]), joined: false }];
  const surface = useSurface();
  await surface.load();
  expect(surface.desk.units).toHaveLength(2);
  expect(surface.windows).toHaveLength(2);
  surface.press('join');
  await new Promise((done) => setTimeout(done, 500));
  expect(server.ask).toHaveBeenCalledWith('PUT', '/desks/desk', expect.objectContaining({ joined: true }));
  expect(surface.windows).toHaveLength(1);
});
it('a desk whose unit has no profile any more works with its other units', async () => {
  kept.desks = [
    {
      ...newDesk('desk', 'Mine', [{ id: 'gone', name: 'Gone' }, simulatedFaders]),
    },
  ];
  const surface = useSurface();
  await surface.load();
  await nextTick();
  expect(surface.windows[0]!.group.width).toBe(8);
  expect([...surface.simulated.keys()]).toEqual(['unit-2']);
});
it('a user key does an action of the page, and an unknown one says what to do', async () => {
  const surface = useSurface();
  await settled();
  surface.setDesk({ userKeys: [{ key: 1, layer: 1, action: 'no-such' }] });
  await settled();
  const unit = [...surface.simulated.values()][0]!;
  unit.press('user1', true);
  unit.press('user1', false);
  expect(said().at(-1)).toMatch(/asks for the action no-such/);
});
it('a recent session is chosen on the display, and opened by a push', async () => {
  const surface = useSurface();
  await surface.load();
  surface.press('recent');
  const unit = [...surface.simulated.values()][0]!;
  expect(unit.of('page').text).toBe('Open 1/1: Two');
  unit.press('encoder1', true);
  expect(router.push).toHaveBeenCalledWith('/session/two');
});
