import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import { newInsert } from '@core/session/defaults';
import { withDelta } from '@core/session/delta';
import type { Session } from '@core/session/types';
import { small } from '@/testing/stores';
import type { FeederMessage } from './feeder';
import type { PlanWorkerMessage } from './plan.worker';
import { CONTROL, DYNAMICS_SLOT_FLOATS, METER_SLOT_FLOATS } from './shared';

/** Workers of the page, by their file: what they were told, and whether they still run. */
const workers = vi.hoisted(() => {
  class FakeWorker {
    static made: FakeWorker[] = [];
    told: unknown[] = [];
    ended = false;
    onmessage: ((e: { data: unknown }) => void) | null = null;
    onerror: (() => void) | null = null;
    constructor(readonly name: string) {
      FakeWorker.made.push(this);
    }
    postMessage(message: unknown) {
      this.told.push(message);
    }
    terminate() {
      this.ended = true;
    }
  }
  const named = (name: string) =>
    class extends FakeWorker {
      constructor() {
        super(name);
      }
    };
  return { FakeWorker, named };
});
vi.mock('./feeder.worker?worker', () => ({ default: workers.named('feeder') }));
vi.mock('./plan.worker?worker', () => ({ default: workers.named('keeper') }));
vi.mock('./rehearse.worker?worker', () => ({ default: workers.named('rehearsal') }));
vi.mock('./meters.worker?worker', () => ({ default: workers.named('meters') }));
vi.mock('./worklet.ts?worker&url', () => ({ default: 'worklet.js' }));
const { Player } = await import('./player');

/** Takes the place of the browser's audio context. */
class FakeContext {
  static made: FakeContext[] = [];
  static channels = 2;
  state: AudioContextState = 'suspended';
  outputLatency = 0.02;
  closed = false;
  readonly audioWorklet = { addModule: async () => {} };
  readonly destination = {
    maxChannelCount: FakeContext.channels,
    channelCount: 2,
    channelInterpretation: 'speakers',
  };
  playbackStats: unknown;
  constructor(readonly options: AudioContextOptions) {
    FakeContext.made.push(this);
  }
  get sampleRate() {
    return this.options.sampleRate!;
  }
  async resume() {
    this.state = 'running';
  }
  async close() {
    this.closed = true;
  }
}

let session: Session | null;
let player: InstanceType<typeof Player>;
const latest = (name: string) => workers.FakeWorker.made.filter((w) => w.name === name).at(-1)!;
const kept = () => latest('keeper').told as PlanWorkerMessage[];
const fed = () => latest('feeder').told as FeederMessage[];
const sessions = () => kept().filter((m) => m.type === 'session');
const stems = { 'sha256:x': { channels: 2, frames: 9000 } };
/** Edits the session, and waits until it has been told on. */
async function edit(...commands: Command[]) {
  session = apply(session!, commands).session;
  player.update(stems);
  await vi.advanceTimersByTimeAsync(10);
}
const fader = (id: string, faderDb: number): Command => ({ type: 'strip.set', id, patch: { faderDb } });

beforeEach(() => {
  vi.useFakeTimers();
  workers.FakeWorker.made = [];
  FakeContext.made = [];
  FakeContext.channels = 2;
  vi.stubGlobal('crossOriginIsolated', true);
  vi.stubGlobal('AudioContext', FakeContext);
  vi.stubGlobal(
    'AudioWorkletNode',
    class {
      readonly port = { postMessage: () => {} };
      connect() {}
      disconnect() {}
    },
  );
  vi.stubGlobal('fetch', async () => ({ ok: true, arrayBuffer: async () => new ArrayBuffer(0) }));
  vi.spyOn(WebAssembly, 'compile').mockResolvedValue({});
  session = {
    ...small,
    strips: small.strips.map((s) =>
      s.id === 'a' ? { ...s, stem: 'sha256:x', inserts: [newInsert({ id: 'comp', type: 'compressor' })] } : s,
    ),
  };
  player = new Player(20, () => session);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe('the live engine', () => {
  it('costs nothing before it is asked to play', async () => {
    await edit(fader('a', -3));
    expect(workers.FakeWorker.made).toEqual([]);
    expect(FakeContext.made).toEqual([]);
    expect(player.started).toBe(false);
  });
  it('does not begin on a page that is not isolated, says so, and begins when it is', async () => {
    vi.stubGlobal('crossOriginIsolated', false);
    vi.stubGlobal('isSecureContext', true);
    await expect(player.start()).rejects.toThrow(/isolated/);
    // By plain HTTP it says where a safe line is.
    vi.stubGlobal('isSecureContext', false);
    const own = globalThis.fetch;
    const answers = (access: string) =>
      vi.stubGlobal('fetch', async (...asked: Parameters<typeof fetch>) =>
        asked[0] === '/api/access' ? { json: async () => JSON.parse(access) as unknown } : own(...asked),
      );
    answers('{"https":["https://192.0.2.7:4811"]}');
    await expect(player.start()).rejects.toThrow(/plain HTTP\. Open https:\/\/192\.0\.2\.7:4811/);
    answers('{}');
    await expect(player.start()).rejects.toThrow(/HTTPS alone, or on the machine/);
    vi.stubGlobal('fetch', own);
    vi.stubGlobal('crossOriginIsolated', true);
    await player.start();
    expect(player.started).toBe(true);
  });
  it('begins once, however often it is asked, with the whole session and how it is wired', async () => {
    await Promise.all([player.start(), player.start()]);
    expect(FakeContext.made).toHaveLength(1);
    expect(FakeContext.made[0]!.options).toEqual({ sampleRate: 48000, latencyHint: 0.02 });
    expect(kept().map((m) => m.type)).toEqual(['connect', 'session']);
    const [first] = sessions();
    expect(withDelta(null, first!.delta!)).toEqual(session);
    expect(first!.wiring).toMatchObject({
      serial: 1,
      outputs: [{ strip: 'main', channel: 0 }],
      sources: [{ strip: 'a', channels: 1 }, { strip: 'b' }],
    });
    expect(first!.wiring!.dynamics).toEqual({
      'a comp': player.dynamicsSlot('a', 'comp') / DYNAMICS_SLOT_FLOATS,
    });
    expect(first!.wiring!.slots.bus).toBe(player.slot('bus') / METER_SLOT_FLOATS);
  });
  it('has a plan made when the song may be played soon, tells what has changed since then, and is wired when it is', async () => {
    player.warm(0);
    player.warm(0);
    const keeper = latest('keeper');
    expect(kept()).toMatchObject([{ type: 'session', ahead: ['main'] }]);
    const [ahead] = sessions();
    expect(ahead).not.toHaveProperty('wiring');
    const copy = withDelta(null, ahead!.delta!);
    expect(copy).toEqual(session);
    expect(FakeContext.made).toEqual([]);
    await edit(fader('a', -9));
    expect(kept()).toHaveLength(1);
    await player.roll({ start: 0, loopStart: 0, loopEnd: 0 });
    expect(latest('keeper')).toBe(keeper);
    expect(kept().map((m) => m.type)).toEqual(['session', 'connect', 'session', 'roll']);
    expect(sessions()[1]!.wiring).toMatchObject({ serial: 1, outputs: [{ strip: 'main', channel: 0 }] });
    expect(withDelta(copy, sessions()[1]!.delta!)).toEqual(session);
    expect(JSON.stringify(sessions()[1]!.delta)).not.toContain('"A"');
    // A session that is left takes its plan along; so does one that was never played.
    await player.close();
    expect(keeper.ended).toBe(true);
    const unplayed = new Player(20, () => session);
    unplayed.warm(0);
    expect(latest('keeper')).not.toBe(keeper);
    await unplayed.close();
    expect(latest('keeper').ended).toBe(true);
  });
  it('has the engine rehearsed once when a session has been open for a while, and not beside what plays', async () => {
    const rehearsals = () => workers.FakeWorker.made.filter((w) => w.name === 'rehearsal').length;
    await player.start();
    player.warm(0);
    await vi.advanceTimersByTimeAsync(1500);
    expect(rehearsals()).toBe(0);
    await player.close();
    // A session that is left at once has nothing done for it.
    const left = new Player(20, () => session);
    left.warm(0);
    await left.close();
    await vi.advanceTimersByTimeAsync(1500);
    expect(rehearsals()).toBe(0);
    const silent = session!;
    const empty = new Player(20, () => ({
      ...silent,
      strips: silent.strips.map((s) => (s.kind === 'source' ? { ...s, stem: null } : s)),
    }));
    empty.warm(0);
    await vi.advanceTimersByTimeAsync(1500);
    expect(rehearsals()).toBe(0);
    await empty.close();
    for (let k = 0; k < 2; k++) {
      const stays = new Player(20, () => session);
      stays.warm(0);
      stays.warm(480);
      await vi.advanceTimersByTimeAsync(900);
      expect(rehearsals()).toBe(k);
      await vi.advanceTimersByTimeAsync(200);
      expect(rehearsals()).toBe(1);
      await stays.close();
    }
  });
  it('tells what has moved alone, once for many moves, and is wired anew where strips are', async () => {
    await player.start();
    let copy = withDelta(null, sessions()[0]!.delta!);
    for (let i = 0; i < 40; i++) {
      session = apply(session!, [fader('a', -i)]).session;
      player.update(stems);
    }
    await vi.advanceTimersByTimeAsync(20);
    const moves = sessions().slice(1);
    expect(moves.length).toBeGreaterThan(0);
    expect(moves.length).toBeLessThan(10);
    for (const m of moves) {
      // The first brings the stems' sizes, which the engine was not told before.
      copy = withDelta(copy, m.delta!);
    }
    expect(copy).toEqual(session);
    const before = sessions().length;
    await edit(fader('b', -1));
    expect(sessions().slice(before)).toHaveLength(1);
    expect(sessions().at(-1)).not.toHaveProperty('wiring');
    expect(JSON.stringify(sessions().at(-1)!.delta)).not.toContain('"A"');
    const serial = sessions().findLast((m) => m.wiring)!.wiring!.serial;
    await edit({ type: 'strip.out', id: 'b', out: { to: 'main', on: true } });
    expect(sessions().at(-1)!.wiring!.serial).toBe(serial + 1);
  });
  it('says nothing where nothing has changed', async () => {
    await player.start();
    await edit(fader('a', -3));
    const before = kept().length;
    player.update(stems);
    await vi.advanceTimersByTimeAsync(20);
    expect(kept()).toHaveLength(before);
  });
  it('tells a keeper of the plan that failed the whole session anew, with the next move', async () => {
    await player.start();
    await edit(fader('a', -3));
    latest('keeper').onerror!();
    await edit(fader('a', -4));
    const last = sessions().at(-1)!;
    expect(withDelta(null, last.delta!)).toEqual(session);
    expect(last.wiring).toBeDefined();
  });
  it('keeps a ring as long as its strip plays the same stem', async () => {
    await player.start();
    await edit(fader('a', -3));
    const ringOf = (id: string) =>
      fed()
        .filter((m) => m.type === 'sources')
        .at(-1)!
        .sources.find((s) => s.strip === id)!;
    const ring = ringOf('a').ring;
    expect(ringOf('a')).toMatchObject({ stem: 'sha256:x', stemChannels: 2, stemFrames: 9000 });
    await edit({ type: 'strip.remove', id: 'b' });
    expect(ringOf('a').ring).toBe(ring);
    session = { ...session!, strips: session!.strips.map((x) => (x.id === 'a' ? { ...x, stem: null } : x)) };
    await edit();
    expect(ringOf('a').ring).not.toBe(ring);
    expect(ringOf('a').stem).toBeNull();
  });
  it('rolls after what was moved before it, by generations that never share a ring with the one that plays', async () => {
    await player.start();
    const cue = { start: 48000, loopStart: 0, loopEnd: 0 };
    session = apply(session!, [fader('a', -9)]).session;
    player.update(stems);
    await player.roll(cue);
    const types = kept().map((m) => m.type);
    expect(types.indexOf('roll')).toBeGreaterThan(types.lastIndexOf('session'));
    expect(kept().at(-1)).toEqual({ type: 'roll', generation: 1, from: 1 });
    expect(fed().at(-1)).toEqual({ type: 'cue', generation: 1, cue });
    expect(FakeContext.made[0]!.state).toBe('running');
    // It has not been taken up yet: the next is of the same set of rings, so that what plays keeps its own.
    await player.roll(cue);
    expect(fed().at(-1)).toMatchObject({ generation: 3 });
    Atomics.store(player.control, CONTROL.playing, 3);
    await player.roll(cue);
    expect(fed().at(-1)).toMatchObject({ generation: 4 });
    player.halt();
    expect(kept().at(-1)).toEqual({ type: 'pass', message: { type: 'halt' } });
  });
  it('plays with another buffer on a context of its own, and keeps what was looked at and measured', async () => {
    await player.start();
    player.live.watch('bus');
    const [small, large] = [{}, {}];
    player.probe.look(small, { strip: 'bus', insert: 'x' });
    player.probe.look(large, { strip: 'a', insert: 'y' });
    player.probe.look(large, null);
    player.setMono(true);
    player.measure(true);
    player.setMonitorGain(0.5);
    const [feeder, keeper] = [latest('feeder'), latest('keeper')];
    FakeContext.made[0]!.playbackStats = { underrunEvents: 2, underrunDuration: 0.1 };
    await player.rebuffer(20);
    expect(FakeContext.made).toHaveLength(1);
    await player.rebuffer(80);
    expect([feeder.ended, keeper.ended, FakeContext.made[0]!.closed]).toEqual([true, true, true]);
    expect(FakeContext.made[1]!.options.latencyHint).toBe(0.08);
    const passed = kept().flatMap((m) => (m.type === 'pass' ? [m.message] : []));
    expect(passed).toEqual([
      { type: 'taps', taps: [{ strip: 'bus', serial: 1 }, ...Array(15).fill(null)] },
      { type: 'probe', strip: 'bus', insert: 'x' },
      { type: 'monitor', gain: 0.5, mono: true },
      { type: 'measure', on: true },
    ]);
    expect(withDelta(null, sessions()[0]!.delta!)).toEqual(session);
    // Gaps of the context that is no more are counted on.
    FakeContext.made[1]!.playbackStats = { underrunEvents: 1, underrunDuration: 0.2 };
    expect(player.gaps!.times).toBe(3);
    expect(player.gaps!.seconds).toBeCloseTo(0.3, 9);
  });
  it('gives every output its own pair on a device of more channels', async () => {
    FakeContext.channels = 128;
    await player.start();
    const [context] = FakeContext.made;
    expect(context!.destination).toMatchObject({ channelCount: 64, channelInterpretation: 'discrete' });
  });
  it('has stems fetched before anybody plays, by the thread that feeds it then, and tells what came late', async () => {
    const late: unknown[] = [];
    player = new Player(
      20,
      () => session,
      (sources) => late.push(...sources),
    );
    player.warm(480);
    // Nothing is known of the session's stems yet.
    expect(workers.FakeWorker.made.filter((w) => w.name === 'feeder')).toEqual([]);
    player.update(stems);
    player.warm(480);
    expect(fed()).toEqual([{ type: 'warm', stems: [{ stem: 'sha256:x', frames: 9000 }], start: 480 }]);
    const feeder = latest('feeder');
    await player.roll({ start: 480, loopStart: 0, loopEnd: 0 });
    expect(latest('feeder')).toBe(feeder);
    expect(fed().map((m) => m.type)).toEqual(['warm', 'start', 'sources', 'cue']);
    feeder.onmessage!({ data: { type: 'late', sources: [{ strip: 'a', why: 'slow', waits: 3 }] } });
    expect(late).toEqual([{ strip: 'a', why: 'slow', waits: 3 }]);
    // A page that may not play fetches nothing.
    await player.close();
    vi.stubGlobal('crossOriginIsolated', false);
    player.warm(0);
    expect(latest('feeder')).toBe(feeder);
  });
});
