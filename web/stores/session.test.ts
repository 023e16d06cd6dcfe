import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { apply } from '../../core/session/commands/apply';
import { newStrip } from '../../core/session/defaults';
import { setLanes } from '../../core/automation/edit';
import { ServerError } from '../sync/api';
import { FakeSync } from '../testing/fakes';
import { answer, elsewhere, fader, newPage, said, small, strip, type Page } from '../testing/stores';
import { useSession } from './session';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('../sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('../sync/sessionSync', async () => ({ SessionSync: (await import('../testing/fakes')).FakeSync }));

let page: Page;
beforeEach(async () => {
  vi.useFakeTimers();
  page = newPage();
  server.ask.mockReset().mockResolvedValue(answer(small));
  await useSession().open('one');
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const shownAt = (id: string) => useSession().shown!.strips.find((s) => s.id === id)!.faderDb;

describe('an edit', () => {
  it('stands at once, waits for the server, can be undone before it is kept, and done again', () => {
    const session = useSession();
    expect(session.undoLabel).toBe(null);
    expect(session.commit('level of A', [fader('a', -3)])).toBe(true);
    expect(strip('a').faderDb).toBe(-3);
    expect([session.unsent, session.undoLabel]).toEqual([1, 'level of A']);
    session.undo();
    expect(strip('a').faderDb).toBe(-6);
    expect([session.undoLabel, session.redoLabel]).toEqual([null, 'level of A']);
    session.redo();
    expect(strip('a').faderDb).toBe(-3);
    for (let k = 0; k < 3; k++) FakeSync.last.keepNext();
    expect([session.unsent, session.undoLabel, strip('a').faderDb]).toEqual([0, 'level of A', -3]);
  });

  it('that is refused says why and changes nothing', () => {
    const session = useSession();
    const made = session.commit('a loop', [{ type: 'strip.out', id: 'bus', out: { to: 'bus', on: true } }]);
    expect(made).toBe(false);
    expect(said()).toHaveLength(1);
    expect([session.unsent, strip('bus').out.to]).toEqual([0, 'main']);
  });

  it('of nothing is none', () => {
    expect(useSession().commit('nothing', [])).toBe(false);
    expect(useSession().undoLabel).toBe(null);
  });

  it('that the server refuses for good is taken back with what was built on it, and says why', () => {
    const session = useSession();
    session.commit('a strip', [{ type: 'strip.remove', id: 'b' }]);
    session.commit('level of A', [fader('a', -1)]);
    const first = session.ledger!.pending[0]!;
    FakeSync.last.events.refused(first, new ServerError(422, 'rule', 'it may not be'));
    expect(strip('b').faderDb).toBe(-12);
    expect(strip('a').faderDb).toBe(-1);
    expect(said()).toEqual(['“a strip” was not kept: it may not be']);
  });
});

describe('what other windows do', () => {
  it('comes in under edits that wait; one that no longer fits is dropped with a word', () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    session.commit('level of B', [fader('b', -20)]);
    FakeSync.last.events.kept(elsewhere(small, 1, [{ type: 'strip.remove', id: 'b' }]));
    expect(session.document!.strips.map((s) => s.id)).not.toContain('b');
    expect(strip('a').faderDb).toBe(-3);
    expect(session.unsent).toBe(1);
    expect(said()[0]).toMatch(/^“level of B” was not kept: /);
  });

  it('is asked for where something between was not told', () => {
    FakeSync.last.events.kept(elsewhere(small, 3, [fader('a', 0)]));
    expect(FakeSync.last.caughtUp).toBe(1);
    expect(strip('a').faderDb).toBe(-6);
    const first = elsewhere(small, 1, [fader('a', -1)]);
    const second = elsewhere(apply(small, first.commands).session, 2, [fader('b', -2)]);
    FakeSync.last.events.missed([first, second]);
    expect([strip('a').faderDb, strip('b').faderDb]).toEqual([-1, -2]);
  });

  it('shows while it is dragged, and goes with the window that did it', () => {
    FakeSync.last.events.live('window 2', 'drag', [fader('a', -40)]);
    expect([shownAt('a'), strip('a').faderDb]).toEqual([-40, -6]);
    FakeSync.last.events.gone('window 3');
    expect(shownAt('a')).toBe(-40);
    FakeSync.last.events.gone('window 2');
    expect(shownAt('a')).toBe(-6);
  });

  it('to a strip that has gone here moves nothing', () => {
    FakeSync.last.events.live('window 2', 'drag', [fader('a', -40)]);
    useSession().commit('away with it', [{ type: 'strip.remove', id: 'a' }]);
    expect(useSession().shown!.strips.map((s) => s.id)).toEqual(['b', 'bus', 'main']);
  });

  it('tells when the session itself is deleted', () => {
    expect(useSession().gone).toBe(false);
    FakeSync.last.events.deleted();
    expect(useSession().gone).toBe(true);
  });
});

describe('a drag', () => {
  it('is shown here and told to others, and is one step of the history when it lands', () => {
    const session = useSession();
    for (const level of [-5, -4, -3]) session.live('drag', [fader('a', level)]);
    expect([shownAt('a'), strip('a').faderDb, session.undoLabel]).toEqual([-3, -6, null]);
    session.land('drag', 'level of A', [fader('a', -3)]);
    expect([shownAt('a'), strip('a').faderDb, session.undoLabel]).toEqual([-3, -3, 'level of A']);
    expect(FakeSync.last.told.map((t) => t.commands && t.commands.length)).toEqual([1, 1, 1, null]);
    session.undo();
    expect(strip('a').faderDb).toBe(-6);
  });

  it('that is let go without being meant leaves all as it was', () => {
    const session = useSession();
    session.live('drag', [fader('a', -3)]);
    session.live('drag', null);
    expect([shownAt('a'), session.undoLabel, session.unsent]).toEqual([-6, null, 0]);
  });

  it('in single steps is one edit when it has rested', () => {
    const session = useSession();
    session.settle('keys a', 'level of A', [fader('a', -5)]);
    vi.advanceTimersByTime(500);
    session.settle('keys a', 'level of A', [fader('a', -4)]);
    vi.advanceTimersByTime(500);
    expect([shownAt('a'), session.undoLabel]).toEqual([-4, null]);
    vi.advanceTimersByTime(200);
    expect([strip('a').faderDb, session.undoLabel, session.unsent]).toEqual([-4, 'level of A', 1]);
  });

  it('that rests is kept before anything else is done, and before it is undone', () => {
    const session = useSession();
    session.settle('keys a', 'level of A', [fader('a', -5)]);
    session.settle('keys b', 'level of B', [fader('b', -9)]);
    expect([strip('a').faderDb, session.undoLabel]).toEqual([-5, 'level of A']);
    session.commit('mute', [{ type: 'strip.set', id: 'a', patch: { mute: true } }]);
    expect(strip('b').faderDb).toBe(-9);
    session.settle('keys a', 'level of A', [fader('a', -1)]);
    session.undo();
    expect([strip('a').faderDb, session.undoLabel]).toEqual([-5, 'mute']);
  });
});

describe('a linked strip', () => {
  beforeEach(() => {
    useSession().commit('link', [
      {
        type: 'link.add',
        link: { id: 'l', name: 'Pair', on: true, members: ['a', 'b'], parts: ['fader'], keeps: true },
        at: 0,
      },
    ]);
  });
  it('takes the others along, by as much', () => {
    useSession().commit('level of A', [fader('a', -3)]);
    expect([strip('a').faderDb, strip('b').faderDb]).toEqual([-3, -9]);
  });
  it('moves alone while Alt is held', () => {
    page.hold(true);
    useSession().commit('level of A', [fader('a', -3)]);
    expect([strip('a').faderDb, strip('b').faderDb]).toEqual([-3, -12]);
    page.hold(false);
    useSession().commit('level of A', [fader('a', 0)]);
    expect([strip('a').faderDb, strip('b').faderDb]).toEqual([0, -9]);
  });
});

describe('edits that a closed tab could not send', () => {
  it('are made again when the session is opened, those that the server has are not', async () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    session.commit('level of B', [fader('b', -1)]);
    const [first] = session.ledger!.pending;
    const kept = { ...elsewhere(small, 1, first!.commands), changeId: first!.changeId };
    server.ask.mockResolvedValue(answer(apply(small, first!.commands).session, [kept]));
    await session.open('one');
    expect([strip('a').faderDb, strip('b').faderDb, session.unsent]).toEqual([-3, -1, 1]);
  });

  it('say so where they no longer fit', async () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    const without = apply(small, [{ type: 'strip.remove', id: 'a' }]).session;
    server.ask.mockResolvedValue(answer(without));
    await session.open('one');
    expect(session.unsent).toBe(0);
    expect(said()[0]).toMatch(/^“level of A” could not be sent before, and no longer fits: /);
  });

  it('are forgotten when all is kept', () => {
    useSession().commit('level of A', [fader('a', -3)]);
    expect(page.storage.getItem('zonula.pending.one')).not.toBe(null);
    FakeSync.last.keepNext();
    expect(page.storage.getItem('zonula.pending.one')).toBe(null);
  });
});

it('shows what is automated where its lane has it, and asks questions of it there about once a second', () => {
  const session = useSession();
  const ref = { part: 'strip', owner: 'a', id: null, control: 'fader' } as const;
  session.commit(
    'lane',
    setLanes(small, [
      {
        ref,
        lane: [
          [0, -60],
          [10, 0],
        ],
      },
    ]),
  );
  session.playhead = 10;
  expect([session.strip('a')!.faderDb, session.document!.strips[0]!.faderDb]).toEqual([0, -6]);
  expect(session.standing!.strips[0]!.faderDb).toBe(-60);
  session.slowPlayhead = 10;
  expect(session.standing!.strips[0]!.faderDb).toBe(0);
});

it('learns of a stem that another window has brought in', async () => {
  const info = { channels: 1, frames: 480, overview: '' };
  server.ask.mockImplementation(async (_: string, path: string) => {
    if (path === '/stems/abc') return info;
    throw new Error('asked for something else');
  });
  const brought = newStrip({
    id: 'c',
    kind: 'source',
    name: 'C',
    stem: 'abc',
    out: { to: 'main', on: true },
  });
  FakeSync.last.events.kept(elsewhere(small, 1, [{ type: 'strip.add', strip: brought, at: 0 }]));
  await vi.waitFor(() => expect(useSession().stems.abc).toEqual(info));
});

it('closes: what rests is kept, and nobody is listened to any more', () => {
  const session = useSession();
  session.settle('keys a', 'level of A', [fader('a', -5)]);
  session.close();
  expect(FakeSync.last.closed).toBe(true);
  expect(session.document).toBe(null);
  expect(JSON.parse(page.storage.getItem('zonula.pending.one')!)).toMatchObject([{ label: 'level of A' }]);
});
