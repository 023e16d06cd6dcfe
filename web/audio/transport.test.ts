import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { nextTick } from 'vue';
import { apply } from '@core/edits/apply';
import type { Session } from '@core/session/types';
import { FakePlayer, FakeSync } from '@/testing/fakes';
import { answer, fader, newPage, said, small } from '@/testing/stores';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useTransport } from './transport';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('./player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));

const sections = [
  { id: 'one', name: 'First verse', start: 0, end: 8 },
  { id: 'two', name: 'Refrain', start: 8, end: 16 },
];
const session: Session = apply(small, [{ type: 'sections.set', sections }]).session;
let paint: (() => void) | null = null;

beforeEach(async () => {
  newPage();
  vi.stubGlobal('requestAnimationFrame', (next: () => void) => ((paint = next), 1));
  vi.stubGlobal('cancelAnimationFrame', () => (paint = null));
  server.ask.mockReset().mockResolvedValue(answer(session));
  await useSession().open('one');
  useTransport().attach();
});
afterEach(() => vi.unstubAllGlobals());
const player = () => FakePlayer.last;
/** The next picture, with the engine at a time. */
function look(seconds = player().position / 48000) {
  player().position = Math.round(seconds * 48000);
  paint!();
}

describe('stems', () => {
  it('are fetched where it may be played from, once a hand has come to rest', async () => {
    vi.useFakeTimers();
    await vi.advanceTimersByTimeAsync(200);
    const before = player().warmed.length;
    for (const at of [1, 2, 3]) useTransport().locate(at);
    await vi.advanceTimersByTimeAsync(100);
    expect(player().warmed.length).toBe(before);
    await vi.advanceTimersByTimeAsync(100);
    expect(player().warmed.slice(before)).toEqual([144000]);
    // While it plays, what plays is fetched, and no more.
    await useTransport().play();
    look(5);
    await vi.advanceTimersByTimeAsync(300);
    expect(player().warmed.length).toBe(before + 1);
    useTransport().stop();
    look();
    await vi.advanceTimersByTimeAsync(300);
    expect(player().warmed.at(-1)).toBe(5 * 48000);
    vi.useRealTimers();
  });

  it('that come late are told once, with their names and why, until it is begun anew', async () => {
    const ids = useSession().document!.strips.map((s) => s.id);
    const [first, second] = useSession().document!.strips.map((s) => s.name);
    await useTransport().play();
    player().late([{ strip: ids[0]!, why: 'slow', waits: 1240 }]);
    player().late([{ strip: ids[1]!, why: 'away', waits: 0 }]);
    expect(said()).toEqual([
      `Behind: ${first}. The server has not answered for 1.2 s. They come back as it does.`,
    ]);
    expect([...useTransport().lateSources.keys()]).toEqual([ids[0], ids[1]]);
    useTransport().stop();
    await useTransport().play();
    expect(useTransport().lateSources.size).toBe(0);
    player().late([
      { strip: ids[0]!, why: 'slow', waits: 900 },
      { strip: ids[1]!, why: 'away', waits: 0 },
    ]);
    expect(said().at(-1)).toBe(
      `Behind: ${first}, ${second}. The server does not answer; what is near plays on. Look whether Zonula and its database run.`,
    );
    useTransport().stop();
    await useTransport().play();
    player().late(['p', 'q', 'r', 's', 't'].map((strip) => ({ strip, why: 'gone', waits: 0 })));
    expect(said().at(-1)).toBe(
      'Not played: p, q, r and 2 others. The server has no such stem any more. Bring it in again.',
    );
  });
});

describe('playing', () => {
  it('begins at the playhead, in frames of the session', async () => {
    useTransport().locate(2.5);
    await useTransport().play();
    expect(player().cue).toEqual({ start: 120000, loopStart: 0, loopEnd: 0 });
    look(3);
    expect([useTransport().rolling, useTransport().position]).toEqual([true, 3]);
  });

  it('waits until the first frames are there', async () => {
    await useTransport().play();
    player().cued = false;
    look();
    expect(useTransport().waiting).toBe(true);
    player().cued = true;
    look();
    expect(useTransport().waiting).toBe(false);
  });

  it('stops at the end, and begins anew from there', async () => {
    const transport = useTransport();
    expect(transport.length).toBe(16);
    await transport.play();
    look(16.2);
    expect(transport.position).toBe(16);
    expect(player().calls.at(-1)).toBe('halt');
    look();
    await transport.play();
    expect(player().cue).toMatchObject({ start: 0 });
  });

  it('goes on from another place while it rolls, and does not begin where it rests', async () => {
    const transport = useTransport();
    transport.locate(4);
    expect(player().calls).not.toContain('roll');
    await transport.play();
    transport.locate(99);
    expect(transport.position).toBe(16);
    transport.locate(-1);
    expect([transport.position, (player().cue as { start: number }).start]).toEqual([0, 0]);
    expect(player().calls.filter((c) => c === 'roll')).toHaveLength(3);
  });

  it('that cannot begin says why, and can be tried again', async () => {
    player().broken = new Error('The audio engine could not be loaded. Reload the page.');
    await useTransport().play();
    expect(said()).toEqual(['The audio engine could not be loaded. Reload the page.']);
    player().broken = null;
    await useTransport().play();
    expect(player().calls).toContain('roll');
  });

  it('by one key, both ways', async () => {
    useTransport().toggle();
    await nextTick();
    expect(player().calls.at(-1)).toBe('roll');
    useTransport().toggle();
    expect(player().calls.at(-1)).toBe('halt');
  });
});

describe('a loop', () => {
  it('is of the section at the playhead, and is kept when it is switched off', async () => {
    const transport = useTransport();
    transport.locate(10);
    transport.toggleLoop();
    expect([transport.loop, transport.looping]).toEqual([{ start: 8, end: 16 }, true]);
    await transport.play();
    expect(player().cue).toEqual({ start: 480000, loopStart: 384000, loopEnd: 768000 });
    transport.toggleLoop();
    expect(player().cue).toMatchObject({ loopEnd: 0 });
    expect([transport.loop, transport.looping]).toEqual([{ start: 8, end: 16 }, false]);
    transport.toggleLoop();
    expect(transport.looping).toBe(true);
  });

  it('takes the playhead along where it lies outside, and is not left at the end of the song', async () => {
    const transport = useTransport();
    await transport.play();
    transport.setLoop({ start: 12, end: 16 });
    expect(player().cue).toMatchObject({ start: 576000 });
    look(16);
    expect(player().calls.at(-1)).toBe('roll');
  });

  it('shorter than a twentieth of a second is none', () => {
    useTransport().setLoop({ start: 1, end: 1.04 });
    expect([useTransport().loop, useTransport().looping]).toEqual([null, false]);
  });

  it('begins at its start when the playhead stands behind it', async () => {
    useTransport().setLoop({ start: 2, end: 4 });
    useTransport().locate(9);
    await useTransport().play();
    expect(player().cue).toMatchObject({ start: 96000 });
  });
});

describe('dropouts', () => {
  it('are gaps that were heard, where the browser tells them, and stems that came late', async () => {
    await useTransport().play();
    Object.assign(player(), { overruns: 7, dropouts: 2, gaps: { times: 1, seconds: 0.02 } });
    look();
    expect(useTransport().late).toBe(3);
    expect(useTransport().overruns).toBe(7);
  });
  it('are blocks that took too long, where it does not', async () => {
    await useTransport().play();
    Object.assign(player(), { overruns: 7, dropouts: 2 });
    look();
    expect(useTransport().late).toBe(9);
  });
});

describe('the buffer', () => {
  it('is as it was chosen; what nobody offers is the usual one', () => {
    expect(player().buffer).toBe(20);
    useSettings().buffer = 200;
    useTransport().attach();
    expect(player().buffer).toBe(200);
    useSettings().buffer = 3;
    useTransport().attach();
    expect(player().buffer).toBe(20);
  });
  const since = (n: number) => player().calls.slice(n);
  it('changes while it plays, and it plays on', async () => {
    await useTransport().play();
    look(5);
    const n = player().calls.length;
    useSettings().buffer = 100;
    await vi.waitFor(() => expect(since(n)).toEqual(['halt', 'rebuffer 100', 'has 100', 'roll']));
    expect(player().cue).toMatchObject({ start: 240000 });
  });
  it('changes at rest without beginning to play', async () => {
    useSettings().buffer = 50;
    await vi.waitFor(() => expect(player().calls.at(-1)).toBe('has 50'));
    expect(player().calls).not.toContain('roll');
  });
  it('changes once more before it has changed, one change after the other, and it plays on', async () => {
    await useTransport().play();
    const n = player().calls.length;
    useSettings().buffer = 50;
    await nextTick();
    useSettings().buffer = 100;
    await vi.waitFor(() => expect(since(n).filter((c) => c === 'roll')).toHaveLength(2));
    const each = (ms: number) => ['halt', `rebuffer ${ms}`, `has ${ms}`, 'roll'];
    expect(since(n)).toEqual([...each(50), ...each(100)]);
  });
  it('is offered one longer where gaps were heard with this one, and no other', async () => {
    const transport = useTransport();
    await transport.play();
    const heard = (times: number) => {
      Object.assign(player(), { gaps: { times, seconds: times / 100 } });
      look();
    };
    heard(0);
    expect(transport.longerBuffer).toBeNull();
    heard(2);
    expect(transport.longerBuffer).toBe(50);
    useSettings().buffer = 50;
    await nextTick();
    // What was heard before is no reason to change this one.
    heard(2);
    expect(transport.longerBuffer).toBeNull();
    heard(3);
    expect(transport.longerBuffer).toBe(100);
    useSettings().buffer = 200;
    await nextTick();
    heard(4);
    expect(transport.longerBuffer).toBeNull();
    // Another session begins anew.
    useSettings().buffer = 10;
    await nextTick();
    transport.attach();
    heard(1);
    expect(transport.longerBuffer).toBe(20);
  });
  it('that changes while the session is left leaves no engine behind', async () => {
    await useTransport().play();
    const left = player();
    useSettings().buffer = 50;
    await nextTick();
    expect(left.calls.at(-1)).toBe('rebuffer 50');
    await useTransport().detach();
    await vi.waitFor(() => expect(left.calls.slice(-2)).toEqual(['has 50', 'close']));
  });
});

it('shows the engine every edit, drag and undo', () => {
  const updates = () => player().calls.filter((c) => c.startsWith('update')).length;
  const before = updates();
  useSession().live('drag', [fader('a', -3)]);
  useSession().land('drag', 'level', [fader('a', -3)]);
  useSession().undo();
  expect(updates()).toBeGreaterThanOrEqual(before + 3);
});

it('asks questions about once a second while it rolls, and at once when it stops', async () => {
  await useTransport().play();
  look(0.5);
  expect([useSession().playhead, useSession().slowPlayhead]).toEqual([0.5, 0]);
  look(1.2);
  expect(useSession().slowPlayhead).toBe(1.2);
  look(1.5);
  player().rolling = false;
  look(1.5);
  await nextTick();
  expect(useSession().slowPlayhead).toBe(1.5);
});

it('lets go of its engine when the session is left', async () => {
  await useTransport().play();
  look(2);
  await useTransport().detach();
  expect(player().calls.at(-1)).toBe('close');
  expect([useTransport().player, useTransport().rolling, paint]).toEqual([null, false, null]);
  expect(FakeSync.last.closed).toBe(false);
});

describe('a window that plays nothing', () => {
  const other = { rolling: true, position: 10, looping: true, loop: { start: 8, end: 12 } };
  beforeEach(async () => {
    await useTransport().detach();
    useTransport().attachRemote();
  });
  it('follows the one that plays, round its loop, and asks it for everything', async () => {
    vi.spyOn(performance, 'now').mockReturnValue(1000);
    FakeSync.last.events.playing('main', other);
    vi.spyOn(performance, 'now').mockReturnValue(4500);
    paint!();
    const transport = useTransport();
    expect([transport.rolling, transport.looping, transport.position]).toEqual([true, true, 9.5]);
    transport.stop();
    transport.locate(3);
    transport.toggleLoop();
    await nextTick();
    expect(FakeSync.last.asks).toEqual([
      { to: 'main', ask: 'stop' },
      { to: 'main', ask: 'locate', at: 3 },
      { to: 'main', ask: 'loop' },
    ]);
    vi.restoreAllMocks();
  });
  it('says so where none plays, where the one that played has gone, and where it does not answer', async () => {
    await useTransport().play();
    expect(said().at(-1)).toMatch(/No window plays this session/);
    FakeSync.last.events.playing('main', other);
    FakeSync.last.events.gone('main');
    paint!();
    expect(useTransport().rolling).toBe(false);
    FakeSync.last.events.playing('main', other);
    FakeSync.last.there = false;
    await useTransport().play();
    paint!();
    expect(useTransport().rolling).toBe(false);
    expect(FakeSync.last.asks).toHaveLength(1);
  });
});

it('a window that plays says where it stands, to whoever joins too, and does what it is asked', async () => {
  await useTransport().play();
  look(1);
  FakeSync.last.events.joined();
  expect(FakeSync.last.said.at(-1)).toMatchObject({ rolling: true, position: 1 });
  FakeSync.last.events.asked('stop');
  expect(player().calls.at(-1)).toBe('halt');
  FakeSync.last.events.asked('locate', 4);
  expect(useTransport().position).toBe(4);
  FakeSync.last.events.asked('loop');
  expect(useTransport().looping).toBe(true);
});
