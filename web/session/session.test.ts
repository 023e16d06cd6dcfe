import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { newPreamp } from '@core/devices/preamp';
import { apply } from '@core/edits/apply';
import { newStrip } from '@core/session/defaults';
import type { Change } from '@core/edits/history';
import { setLanes } from '@core/automation/edit';
import { ServerError } from './sync/api';
import { FakeSync } from '@/testing/fakes';
import { answer, elsewhere, fader, newPage, said, small, strip, type Page } from '@/testing/stores';
import { useSession } from './session';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('./sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('./sync/sessionSync', async () => ({ SessionSync: (await import('@/testing/fakes')).FakeSync }));

/** A server that has a session, and these changes of it beside the last ones. */
const answers = (opened: object, changes: Readonly<Record<string, Change>> = {}) =>
  server.ask.mockReset().mockImplementation(async (_method: string, path: string) => {
    const asked = /\/changes\/(.+)$/.exec(path)?.[1];
    if (asked === undefined) return opened;
    if (!changes[asked]) throw new ServerError(404, 'unknown', 'no such change');
    return { change: changes[asked] };
  });

let page: Page;
beforeEach(async () => {
  vi.useFakeTimers();
  page = newPage();
  answers(answer(small));
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
    expect(said()).toEqual(['“a strip” was not kept: it may not be.']);
    expect(session.aside).toMatchObject([{ change: { label: 'a strip' }, reason: 'it may not be' }]);
    session.discardAside();
    expect([session.aside, page.keptUnder('zonula.aside.')]).toEqual([[], []]);
  });
});

describe('an old edit', () => {
  /** Ten edits of which the window was given the last two with what they did, and of all that they are there. */
  function old() {
    const changes: Change[] = [];
    let document = small;
    for (let n = 1; n <= 10; n++) {
      const change = { ...elsewhere(document, n, [fader('a', -n)]), label: `edit ${n}`, changeId: `e${n}` };
      document = apply(document, change.commands).session;
      changes.push(change);
    }
    return { document, changes, opened: { ...answer(document, changes), history: changes.slice(-2) } };
  }
  it('is undone and done again as far back as the history, by asking what it did', async () => {
    const { opened, changes } = old();
    answers(opened, Object.fromEntries(changes.map((c) => [c.changeId, c])));
    const session = useSession();
    await session.open('one');
    // Faster than answers come.
    for (let n = 0; n < 10; n++) session.undo();
    await vi.waitFor(() => expect(session.undoLabel).toBe(null));
    expect(strip('a').faderDb).toBe(-6);
    expect(session.redoLabel).toBe('edit 1');
    for (let n = 0; n < 3; n++) session.redo();
    await vi.waitFor(() => expect(session.undoLabel).toBe('edit 3'));
    expect(strip('a').faderDb).toBe(-3);
    // What is sent names the edit.
    expect(session.ledger!.pending.map((p) => p.of)).toEqual(
      [10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 1, 2, 3].map((n) => `e${n}`),
    );
  });
  it('that the server cannot tell of is left, with a word', async () => {
    answers(old().opened);
    const session = useSession();
    await session.open('one');
    session.undo();
    session.undo();
    session.undo();
    await vi.waitFor(() => expect(said()).toHaveLength(1));
    expect(said()[0]).toBe('“edit 8” cannot be undone now: no such change');
    expect(session.undoLabel).toBe('edit 8');
  });
});

describe('a session that went on far while this window was away', () => {
  it('is taken as the server has it, with the edits that wait on top', () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    session.commit('level of B', [fader('b', -3)]);
    const document = apply(small, [{ type: 'strip.remove', id: 'b' }]).session;
    FakeSync.last.events.reloaded({
      id: 'one',
      revision: 5000,
      document,
      history: [],
      undo: [{ changeId: 'x', label: 'far' }],
      redo: [],
    });
    expect([session.ledger!.revision, strip('a').faderDb, session.unsent]).toEqual([5000, -3, 1]);
    expect(session.aside).toMatchObject([{ change: { label: 'level of B' } }]);
    expect(session.undoLabel).toBe('level of A');
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
    session.commit('mute', [{ type: 'strip.set', id: 'a', patch: { mute: true } }]);
    expect([strip('a').faderDb, strip('b').faderDb, session.unsent]).toEqual([-5, -9, 3]);
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

describe('the preamplifier', () => {
  it('is believed by its later word, also where an answer comes after what was told since', () => {
    const session = useSession();
    const asked = newPreamp(4);
    const confirmed = { gainDb: 30, pad: false, phantom: false, lowCut: false, invert: false };
    FakeSync.last.events.preamp({ input: 4, asked, confirmed, state: 'settled', order: 8 });
    session.learnPreamp({ input: 4, asked, confirmed: {}, state: 'waiting', order: 3 });
    expect(session.preamps.get(4)!.state).toBe('settled');
    session.learnPreamp({ input: 4, asked, confirmed, state: 'silent', order: 9 });
    expect(session.preamps.get(4)!.state).toBe('silent');
  });
});

describe('edits that a closed tab could not send', () => {
  it('are made again when the session is opened, those that the server has are not', async () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    session.commit('level of B', [fader('b', -1)]);
    const [first] = session.ledger!.pending;
    const kept = { ...elsewhere(small, 1, first!.commands), changeId: first!.changeId };
    answers(answer(apply(small, first!.commands).session, [kept]));
    await session.open('one');
    expect([strip('a').faderDb, strip('b').faderDb, session.unsent]).toEqual([-3, -1, 1]);
  });

  it('say so where they no longer fit', async () => {
    const session = useSession();
    session.commit('level of A', [fader('a', -3)]);
    const without = apply(small, [{ type: 'strip.remove', id: 'a' }]).session;
    answers(answer(without));
    await session.open('one');
    expect(session.unsent).toBe(0);
    expect(said()[0]).toMatch(/^“level of A” could not be sent before, and no longer fits: /);
  });

  it('of two tabs with one session stay apart, and are taken over when a tab is closed', async () => {
    const first = useSession();
    first.commit('level of A', [fader('a', -3)]);
    setActivePinia(createPinia());
    const second = useSession();
    await second.open('one');
    // The first tab is there: its edits are its own.
    expect(second.unsent).toBe(0);
    second.commit('level of B', [fader('b', -1)]);
    first.commit('mute', [{ type: 'strip.set', id: 'a', patch: { mute: true } }]);
    expect(page.keptUnder('zonula.pending.one.')).toHaveLength(2);
    // Both are closed.
    page.dispatchEvent(new Event('pagehide'));
    setActivePinia(createPinia());
    const third = useSession();
    await third.open('one');
    expect(third.unsent).toBe(3);
    expect([strip('a').faderDb, strip('a').mute, strip('b').faderDb]).toEqual([-3, true, -1]);
    expect(page.keptUnder('zonula.pending.one.')).toHaveLength(1);
  });

  it('that were damaged are put aside, and the session opens', async () => {
    page.storage.setItem('zonula.pending.one.old', '[{"chang');
    await useSession().open('one');
    expect(useSession().aside).toMatchObject([{ change: { text: '[{"chang' } }]);
    expect(page.keptUnder('zonula.pending.one.old')).toEqual([]);
  });

  it('are told where the browser has no room for them, once', () => {
    page.storage.setItem = () => {
      throw new DOMException('full', 'QuotaExceededError');
    };
    useSession().commit('level of A', [fader('a', -3)]);
    useSession().commit('level of A', [fader('a', -2)]);
    expect(said()).toEqual([expect.stringContaining('Leave the page open')]);
    expect(strip('a').faderDb).toBe(-2);
  });

  it('are called by what can be kept of their names', () => {
    useSession().commit(`${'x'.repeat(299)}🎻 and more`, [fader('a', -3)]);
    expect(useSession().undoLabel).toBe('x'.repeat(299));
  });

  it('are forgotten when all is kept', () => {
    useSession().commit('level of A', [fader('a', -3)]);
    expect(page.keptUnder('zonula.pending.one.')).toHaveLength(1);
    FakeSync.last.keepNext();
    expect(page.keptUnder('zonula.pending.')).toEqual([]);
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
  expect(JSON.parse(page.keptUnder('zonula.pending.one.')[0]!)).toMatchObject([{ label: 'level of A' }]);
});
