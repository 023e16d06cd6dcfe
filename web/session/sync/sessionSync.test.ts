import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { newSession } from '@core/session/defaults';
import type { Command } from '@core/edits/commands';
import type { Change } from '@core/edits/history';
import type { PendingChange } from './ledger';
import { SessionSync, type SyncEvents, type SyncState } from './sessionSync';

const server = vi.hoisted(() => ({
  ask: vi.fn(),
  on: new Map<string, (m?: unknown) => void>(),
  emit: vi.fn(),
  close: vi.fn(),
  connected: true,
}));
vi.mock('socket.io-client', () => ({
  io: () => ({
    on: (name: string, f: (m?: unknown) => void) => server.on.set(name, f),
    emit: server.emit,
    close: server.close,
    get connected() {
      return server.connected;
    },
  }),
}));
vi.mock('./api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
const { ServerError } = await import('./api');

const level = (faderDb: number): Command => ({ type: 'strip.set', id: 'main', patch: { faderDb } });
const edit = (n: number): PendingChange =>
  ({
    changeId: `c${n}`,
    kind: 'edit',
    label: `edit ${n}`,
    commands: [level(-n)],
    inverse: [],
    of: null,
  }) satisfies PendingChange;
const kept = (c: PendingChange, revision: number) => ({ ...c, revision, inverse: [] }) as unknown as Change;

let waiting: PendingChange[];
let revision: number;
let states: SyncState[];
let heard: string[];
let events: SyncEvents;
let sync: SessionSync;
/** Asked of the server, by method and path, without the changes that are missed and the preamplifiers. */
const commits = () =>
  server.ask.mock.calls.filter(([method]) => method === 'POST').map(([, , body]) => body.changeId);

beforeEach(() => {
  vi.useFakeTimers();
  server.ask.mockReset().mockImplementation(async (_: string, path: string, body: PendingChange) => {
    if (path.includes('/changes')) return { changes: [], more: false };
    if (path === '/preamps') return { states: [] };
    return { change: kept(body, ++revision) };
  });
  server.emit.mockReset();
  server.close.mockReset();
  server.on.clear();
  server.connected = true;
  waiting = [];
  revision = 0;
  states = [];
  heard = [];
  events = {
    next: () => (waiting[0] ? { change: waiting[0], revision } : null),
    kept: (change) => {
      heard.push(`kept ${change.changeId}`);
      waiting = waiting.filter((w) => w.changeId !== change.changeId);
    },
    missed: (changes) => {
      heard.push(`missed ${changes.map((c) => c.changeId).join()}`);
      revision = changes.at(-1)!.revision;
    },
    reloaded: (state) => {
      heard.push(`reloaded ${state.revision}`);
      revision = state.revision;
    },
    refused: (change, error) => {
      heard.push(`refused ${change.changeId} ${error.status}`);
      waiting = waiting.filter((w) => w !== change);
    },
    state: (s) => states.push(s),
    live: (from, drag, commands) => heard.push(`live ${from} ${drag} ${commands?.length ?? 'over'}`),
    gone: (from) => heard.push(`gone ${from}`),
    playing: (from, { position }) => heard.push(`playing ${from} ${position}`),
    asked: (ask, at) => heard.push(`asked ${ask} ${at ?? ''}`),
    joined: () => heard.push('joined'),
    connected: (is) => heard.push(`connected ${is}`),
    deleted: () => heard.push('deleted'),
    preamp: (s) => heard.push(`preamp ${s.input}`),
  };
  sync = new SessionSync('one', events, () => revision);
});
afterEach(() => {
  sync.close();
  vi.useRealTimers();
});
const settled = () => vi.advanceTimersByTimeAsync(0);
const fails = (status: number, times = 1, body: object = {}) => {
  for (let i = 0; i < times; i++)
    server.ask.mockImplementationOnce(async () => {
      throw new ServerError(status, 'refused', 'no', body as never);
    });
};

describe('edits on their way to the server', () => {
  it('are sent one after another, each on the revision that the one before gave', async () => {
    waiting = [edit(1), edit(2), edit(3)];
    sync.flush();
    sync.flush();
    await settled();
    expect(commits()).toEqual(['c1', 'c2', 'c3']);
    expect(server.ask.mock.calls.map(([, , body]) => body.revision)).toEqual([0, 1, 2]);
    expect(states.at(-1)).toBe('kept');
    expect(heard).toEqual(['kept c1', 'kept c2', 'kept c3']);
  });
  it('carry their commands where they are edits, and the edit that they take back where they undo', async () => {
    waiting = [{ ...edit(1), kind: 'undo', of: 'c0' }];
    sync.flush();
    await settled();
    const [, , body] = server.ask.mock.calls[0]!;
    expect(body).toMatchObject({ kind: 'undo', of: 'c0' });
    expect(body).not.toHaveProperty('commands');
  });
  it('wait longer and longer for a server that is away, and go when it is back', async () => {
    waiting = [edit(1)];
    fails(0, 3);
    sync.flush();
    await settled();
    expect(states.at(-1)).toBe('away');
    await vi.advanceTimersByTimeAsync(249);
    expect(commits()).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(1);
    expect(commits()).toHaveLength(2);
    await vi.advanceTimersByTimeAsync(500);
    expect(commits()).toHaveLength(3);
    await vi.advanceTimersByTimeAsync(1000);
    expect(heard).toEqual(['kept c1']);
    expect(states.at(-1)).toBe('kept');
  });
  it('never wait longer than five seconds, however long it is away', async () => {
    waiting = [edit(1)];
    fails(0, 20);
    sync.flush();
    await vi.advanceTimersByTimeAsync(60_000);
    const before = commits().length;
    await vi.advanceTimersByTimeAsync(5_000);
    expect(commits().length).toBe(before + 1);
  });
  it('say that the disk is full, and go on when there is room', async () => {
    waiting = [edit(1)];
    fails(507);
    sync.flush();
    await settled();
    expect(states.at(-1)).toBe('full');
    await vi.advanceTimersByTimeAsync(300);
    expect(heard).toEqual(['kept c1']);
  });
  it('that the server refuses leave the queue with its reason, and the rest goes on', async () => {
    waiting = [edit(1), edit(2)];
    fails(422);
    sync.flush();
    await settled();
    expect(heard).toEqual(['refused c1 422', 'kept c2']);
  });
  it('at which the server fails again and again are given up after the fifth time', async () => {
    waiting = [edit(1), edit(2)];
    fails(500, 5);
    sync.flush();
    await vi.advanceTimersByTimeAsync(60_000);
    expect(heard).toEqual(['refused c1 500', 'kept c2']);
    expect(commits().filter((c) => c === 'c1')).toHaveLength(5);
  });
  it('made beside another’s are sent again after what was missed; the whole session where that is too much', async () => {
    waiting = [edit(1)];
    const other = kept(edit(9), 4);
    fails(409, 1, { error: { missed: [other], revision: 4 } });
    sync.flush();
    await settled();
    expect(heard).toEqual(['missed c9', 'kept c1']);
    expect(commits()).toEqual(['c1', 'c1']);
    waiting = [edit(2)];
    fails(409, 1, { error: { missed: [other], revision: 4000 } });
    server.ask.mockImplementationOnce(async () => ({ revision: 4000, document: newSession('x') }));
    sync.flush();
    await settled();
    expect(heard.slice(2)).toEqual(['reloaded 4000', 'kept c2']);
  });
  it('are not sent any more once it is closed', async () => {
    waiting = [edit(1)];
    fails(0, 3);
    sync.flush();
    await settled();
    sync.close();
    await vi.advanceTimersByTimeAsync(10_000);
    expect(commits()).toHaveLength(1);
    expect(server.close).toHaveBeenCalled();
  });
});

describe('what others do', () => {
  const connect = async () => {
    server.on.get('connect')!();
    await settled();
  };
  it('is caught up with when the line is there again, and what waits is sent', async () => {
    waiting = [edit(1)];
    server.ask.mockImplementation(async (_: string, path: string, body: PendingChange) => {
      if (path.includes('/changes?after=0')) return { changes: [kept(edit(5), 1)], more: false };
      if (path === '/preamps') return { states: [{ input: 3 }] };
      return { change: kept(body, ++revision) };
    });
    await connect();
    expect(server.emit).toHaveBeenCalledWith('join', { session: 'one' }, expect.any(Function));
    expect(heard).toContain('missed c5');
    expect(heard).toContain('preamp 3');
    expect(heard).toContain('kept c1');
  });
  it('is taken anew where the server keeps too little of it, and ends where the session is deleted', async () => {
    server.ask.mockImplementation(async (_m: string, path: string) =>
      path.includes('/changes') ? { changes: [], more: true } : { revision: 7, document: null, states: [] },
    );
    await sync.catchUp();
    expect(heard).toEqual(['reloaded 7']);
    server.ask.mockRejectedValue(new ServerError(404, 'unknown', 'gone'));
    await sync.catchUp();
    expect(heard.at(-1)).toBe('deleted');
    server.ask.mockRejectedValue(new ServerError(0, 'away', 'away'));
    await expect(sync.catchUp()).resolves.toBeUndefined();
  });
  it('comes by the socket', () => {
    server.on.get('commit')!(kept(edit(3), 1));
    server.on.get('live')!({ from: 'w', drag: 'fader', commands: [level(-1)] });
    server.on.get('live')!({ from: 'w', drag: 'fader', commands: null });
    server.on.get('gone')!({ from: 'w' });
    server.on.get('deleted')!();
    expect(heard).toEqual(['kept c3', 'live w fader 1', 'live w fader over', 'gone w', 'deleted']);
  });
});

it('hands of others end when the line does: nobody would say that they have let go', () => {
  const say = (name: string, m?: unknown) => server.on.get(name)!(m);
  say('live', { from: 'osc', drag: 'a', commands: [level(-1)] });
  say('live', { from: 'other', drag: 'b', commands: [level(-2)] });
  say('disconnect');
  say('disconnect');
  expect(heard).toEqual([
    'live osc a 1',
    'live other b 1',
    'gone osc',
    'gone other',
    'connected false',
    'connected false',
  ]);
});

describe('drags, told to other windows', () => {
  it('are told once a picture, as they stand then, and their end at once', async () => {
    for (let i = 0; i < 100; i++) sync.live('fader', [level(-i)]);
    sync.live('pan', [level(1)]);
    expect(server.emit).not.toHaveBeenCalled();
    await vi.advanceTimersByTimeAsync(16);
    expect(server.emit.mock.calls).toEqual([
      ['live', { drag: 'fader', commands: [level(-99)] }],
      ['live', { drag: 'pan', commands: [level(1)] }],
    ]);
    sync.live('fader', [level(-3)]);
    sync.live('fader', null);
    expect(server.emit.mock.calls.slice(2)).toEqual([['live', { drag: 'fader', commands: null }]]);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.emit).toHaveBeenCalledTimes(3);
  });
  it('of long lanes are told when they end, and none while the line is cut', async () => {
    const long = Array.from({ length: 6000 }, (_, i) => [i, 0] as [number, number]);
    sync.live('lane', [{ type: 'strip.set', id: 'main', patch: { lanes: { fader: long } } }]);
    await vi.advanceTimersByTimeAsync(50);
    server.connected = false;
    sync.live('fader', [level(-1)]);
    await vi.advanceTimersByTimeAsync(50);
    sync.live('fader', null);
    expect(server.emit).not.toHaveBeenCalled();
  });
});
