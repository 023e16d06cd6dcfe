import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { type ControlRef } from '@core/automation/control';
import { FADER, MUTE } from '@core/session/controls';
import { setLanes, setMode } from '@core/automation/edit';
import { laneValue } from '@core/automation/lane';
import { GLIDE_SECONDS } from '@core/automation/write';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import { newVca } from '@core/session/defaults';
import type { AutomationMode, Lane, Session } from '@core/session/types';
import { answer, fader, newPage, said, small, strip } from '@/testing/stores';
import { useAutomation } from './automation';
import { useSession } from '../session';
import { useTransport } from '@/audio/transport';

// What touch, latch, trim and write do: common practice, no published source.

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('../sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('../sync/sessionSync', async () => ({ SessionSync: (await import('@/testing/fakes')).FakeSync }));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));

const level = (owner: string): ControlRef => ({ part: 'strip', owner, id: null, control: 'fader' });
/** Steady at -10 dB. */
const STEADY: Lane = [
  [0, -10],
  [60, -10],
];
const opened = async (mode: AutomationMode, lane: Lane | null = STEADY, change: readonly Command[] = []) => {
  let session: Session = apply(small, [
    ...setMode(small, ['a'], mode),
    ...setLanes(small, [{ ref: level('a'), lane }]),
  ]).session;
  session = apply(session, change).session;
  server.ask.mockReset().mockResolvedValue(answer(session));
  await useSession().open('one');
  useAutomation();
};
/** Has the song go on to a time, as it plays: in steps as a screen is painted. */
function playTo(seconds: number) {
  const transport = useTransport();
  transport.rolling = true;
  while (transport.position < seconds - 1e-9) {
    vi.advanceTimersByTime(50);
    transport.position = Math.min(seconds, transport.position + 0.05);
    useSession().playhead = transport.position;
  }
}
const stop = () => (useTransport().rolling = false);
const lane = (id = 'a') => strip(id).lanes.fader ?? null;
const at = (seconds: number, id = 'a') => laneValue(FADER, lane(id)!, seconds);
const heard = (id = 'a') => useSession().now!.strips.find((s) => s.id === id)!.faderDb;

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance', 'Date'] });
  newPage();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('touch', () => {
  it('writes while a hand is on it, glides back when it lets go, and is one step of the history', async () => {
    await opened('touch');
    playTo(1);
    useSession().live('drag', [fader('a', -4)]);
    expect(heard()).toBe(-4);
    expect(useAutomation().writing.get('a')).toEqual([level('a')]);
    playTo(2);
    useSession().live('drag', [fader('a', -2)]);
    playTo(3);
    useSession().land('drag', 'level of A', [fader('a', -2)]);
    expect(useAutomation().passes.size).toBe(0);
    expect(at(0.9)).toBeCloseTo(-10);
    expect(at(1.01)).toBeCloseTo(-4);
    expect(at(1.9)).toBeCloseTo(-4);
    expect(at(2.5)).toBeCloseTo(-2);
    expect(at(3 + GLIDE_SECONDS)).toBeCloseTo(-10);
    // The static value is what it was.
    expect(strip('a').faderDb).toBe(-6);
    expect(useSession().undoLabel).toBe('write level of A');
    useSession().undo();
    expect(lane()).toEqual(STEADY);
  });

  it('that is let go without being meant writes nothing', async () => {
    await opened('touch');
    playTo(1);
    useSession().live('drag', [fader('a', -4)]);
    playTo(2);
    useSession().live('drag', null);
    expect([lane(), useSession().undoLabel, heard()]).toEqual([STEADY, null, -10]);
  });

  it('writes a switch until it is pressed again or playing stops', async () => {
    await opened('touch');
    const mute = (on: boolean): Command => ({ type: 'strip.set', id: 'a', patch: { mute: on } });
    playTo(1);
    useSession().commit('mute', [mute(true)]);
    playTo(2);
    expect(useAutomation().passes.size).toBe(1);
    useSession().commit('mute', [mute(false)]);
    playTo(3);
    stop();
    const muted = (t: number) => laneValue(MUTE, strip('a').lanes.mute!, t);
    expect([0.5, 1.5, 2.5].map(muted)).toEqual([0, 1, 0]);
    expect(strip('a').mute).toBe(false);
  });

  it('leaves strips beside it alone: what is not armed is put, not written', async () => {
    await opened('touch');
    playTo(1);
    useSession().commit('levels', [fader('a', -4), fader('b', -1)]);
    expect([strip('b').faderDb, lane('b')]).toEqual([-1, null]);
    expect(strip('a').faderDb).toBe(-6);
    expect(at(1)).toBeCloseTo(-4);
  });
});

describe('latch', () => {
  it('goes on where the hand left it until playing stops', async () => {
    await opened('latch');
    playTo(1);
    useSession().live('drag', [fader('a', -4)]);
    useSession().land('drag', 'level of A', [fader('a', -4)]);
    expect(useAutomation().passes.size).toBe(1);
    playTo(4);
    expect(lane()).toEqual(STEADY);
    stop();
    expect([at(1.1), at(3.9)].map((v) => Math.round(v!))).toEqual([-4, -4]);
    expect(at(4 + GLIDE_SECONDS)).toBeCloseTo(-10);
  });

  it('ends where the song leaps: round a loop, or somewhere else', async () => {
    await opened('latch');
    playTo(10);
    useSession().commit('level', [fader('a', -4)]);
    playTo(12);
    useTransport().position = 10;
    expect(useAutomation().passes.size).toBe(0);
    expect(at(11.9)).toBeCloseTo(-4);
    expect(at(9.9)).toBeCloseTo(-10);
    useSession().commit('level', [fader('a', -20)]);
    vi.advanceTimersByTime(50);
    useTransport().position = 40;
    expect(useAutomation().passes.size).toBe(0);
    expect(at(30)).toBeCloseTo(-10);
  });

  it('goes on through pictures that come late on a busy machine', async () => {
    await opened('latch');
    playTo(1);
    useSession().commit('level', [fader('a', -4)]);
    vi.advanceTimersByTime(3000);
    useTransport().position = 4;
    expect(useAutomation().passes.size).toBe(1);
  });

  it('ends when the strip is taken out of it', async () => {
    await opened('latch');
    playTo(1);
    useSession().commit('level', [fader('a', -4)]);
    playTo(2);
    useSession().commit('mode', setMode(useSession().document!, ['a'], 'read'));
    await Promise.resolve();
    expect(useAutomation().passes.size).toBe(0);
    expect(at(1.5)).toBeCloseTo(-4);
  });
});

describe('trim', () => {
  it('adds what the hand does to what is there', async () => {
    await opened('trim', [
      [0, -20],
      [2, -20],
      [2, -10],
      [60, -10],
    ]);
    playTo(1);
    useSession().live('drag', [fader('a', -17)]);
    playTo(3);
    useSession().land('drag', 'level of A', [fader('a', -7)]);
    expect([at(1.5), at(2.5)].map((v) => Math.round(v!))).toEqual([-17, -7]);
    expect(at(3 + GLIDE_SECONDS)).toBeCloseTo(-10);
  });

  it('at rest moves the whole lane', async () => {
    await opened('trim');
    useTransport().position = 5;
    useSession().playhead = 5;
    useSession().live('drag', [fader('a', -7)]);
    expect(heard()).toBeCloseTo(-7);
    expect(lane()).toEqual(STEADY);
    useSession().land('drag', 'level of A', [fader('a', -7)]);
    expect(lane()).toEqual([
      [0, -7],
      [60, -7],
    ]);
    expect(useSession().undoLabel).toBe('trim level of A');
  });
});

describe('write', () => {
  it('writes from the start of playing all that has a lane, and goes to touch when it stops, in one step', async () => {
    await opened('write', [
      [0, -30],
      [2, 0],
    ]);
    useSession().playhead = 0;
    playTo(3);
    expect(useAutomation().writing.get('a')).toEqual([level('a')]);
    stop();
    expect(at(2.5)).toBeCloseTo(-30);
    expect(strip('a').automation).toBe('touch');
    useSession().undo();
    expect(strip('a').automation).toBe('write');
    expect(at(2.5)).toBe(0);
  });

  it('writes the level also where it has no lane yet, at the place where it stands', async () => {
    await opened('write', null);
    playTo(1);
    useSession().live('drag', [fader('a', -1)]);
    playTo(2);
    useSession().land('drag', 'level of A', [fader('a', -1)]);
    playTo(3);
    stop();
    expect([at(0.5), at(1.5), at(2.9)].map((v) => Math.round(v!))).toEqual([-6, -1, -1]);
  });
});

describe('a control that only reads', () => {
  it('says once that it follows its lane, and keeps the static value for when it does not', async () => {
    await opened('read');
    playTo(1);
    useSession().commit('level of A', [fader('a', -1)]);
    useSession().commit('level of A', [fader('a', -2)]);
    expect(said()).toEqual([
      'Level of A follows its automation. Set the strip to touch, latch or trim to write over it, or to off to set it by hand.',
    ]);
    expect([strip('a').faderDb, lane(), heard()]).toEqual([-2, STEADY, -10]);
  });
  it('that is off is set by hand, and its lane is left', async () => {
    await opened('off');
    playTo(1);
    useSession().commit('level of A', [fader('a', -1)]);
    expect([strip('a').faderDb, lane(), heard(), said()]).toEqual([-1, STEADY, -1, []]);
  });
});

describe('at rest', () => {
  it('an armed control with a lane gets a point at the playhead', async () => {
    await opened('touch');
    useTransport().position = 20;
    useSession().playhead = 20;
    useSession().live('drag', [fader('a', -3)]);
    expect(heard()).toBeCloseTo(-3);
    useSession().live('drag', null);
    expect(heard()).toBeCloseTo(-10);
    useSession().commit('level of A', [fader('a', -3)]);
    expect(lane()).toEqual([
      [0, -10],
      [20, -3],
      [60, -10],
    ]);
    expect(useSession().undoLabel).toBe('point of level of A');
  });
  it('one without a lane is put', async () => {
    await opened('touch', null);
    useSession().commit('level of A', [fader('a', -3)]);
    expect([strip('a').faderDb, lane()]).toEqual([-3, null]);
  });
});

it('a VCA is written like a strip', async () => {
  await opened('off', null, [
    { type: 'vca.add', vca: newVca({ id: 'v', name: 'All', members: ['a'], automation: 'latch' }), at: 0 },
  ]);
  playTo(1);
  useSession().commit('VCA', [{ type: 'vca.set', id: 'v', patch: { faderDb: -8 } }]);
  playTo(2);
  stop();
  const written = useSession().document!.vcas[0]!.lanes.fader!;
  expect(laneValue(FADER, written, 1.5)).toBe(-8);
  expect(laneValue(FADER, written, 0.5)).toBe(0);
  expect(useSession().undoLabel).toBe('write level of All');
});

it('says beside a control what automation does with it', async () => {
  await opened('latch');
  const mark = () => useAutomation().markOf(level('a'));
  expect(mark()).toMatchObject({ writes: false, text: 'Level is automated, armed to latch.' });
  expect(useAutomation().markOf(level('b'))).toBe(null);
  playTo(1);
  useSession().commit('level', [fader('a', -4)]);
  expect(mark()).toMatchObject({ writes: true, text: 'Level is being written.' });
  const inHand = useAutomation().inHand(level('a'))!;
  expect(laneValue(FADER, inHand, 1)).toBe(-4);
  stop();
  expect(mark()!.writes).toBe(false);
  expect(useAutomation().inHand(level('a'))).toBe(null);
});

it('lets go of all when another session is opened', async () => {
  await opened('latch');
  playTo(1);
  useSession().commit('level', [fader('a', -4)]);
  stop();
  await opened('touch');
  await Promise.resolve();
  expect([useAutomation().passes.size, useSession().writing.length]).toEqual([0, 0]);
});
