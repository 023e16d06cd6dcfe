import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { setMode } from '@core/automation/edit';
import { apply } from '@core/edits/apply';
import { newInsert } from '@core/session/defaults';
import type { Session } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { useAutomation } from '@/session/automation/automation';
import { useSession } from '@/session/session';
import { FakeSync } from '@/testing/fakes';
import { answer, newPage, small } from '@/testing/stores';
import { useCompare } from './compare';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));
vi.mock('@/audio/measuring', () => ({ compareExcerpts: () => new Promise(() => {}) }));

/** A strip that writes whatever is touched, with a compressor whose switch has a lane. */
const armed: Session = apply(
  {
    ...small,
    strips: small.strips.map((s) =>
      s.id === 'a'
        ? {
            ...s,
            inserts: [newInsert({ id: 'comp', type: 'compressor', lanes: { on: [[0, 1]] } })],
          }
        : s,
    ),
  },
  setMode(small, ['a'], 'latch'),
).session;
const ref = { strip: 'a', id: 'comp' };
const insertIn = (session: Session | null) =>
  session!.strips.find((s) => s.id === 'a')!.inserts.find((i) => i.id === 'comp');

beforeEach(async () => {
  newPage();
  server.ask.mockReset().mockResolvedValue(answer(armed));
  await useSession().open('one');
  useAutomation();
});
afterEach(() => vi.unstubAllGlobals());

describe('dry against wet', () => {
  it('is for the ear alone: on an armed strip, while it plays, nothing is edited, told or written', () => {
    const session = useSession();
    const compare = useCompare();
    useTransport().rolling = true;
    compare.begin([ref], 'Compressor');
    expect(insertIn(session.heard)!.on).toBe(false);
    // Its switch would else follow its lane, and be heard wet again.
    expect(insertIn(session.heard)!.lanes.on).toBeUndefined();
    expect(session.shown).toBe(session.document);
    expect(FakeSync.last.told).toEqual([]);
    expect(session.writing).toEqual([]);
    compare.toggle();
    expect(session.heard).toBe(session.document);
    compare.toggle();
    useTransport().rolling = false;
    compare.end();
    expect(session.heard).toBe(session.document);
    expect(session.unsent).toBe(0);
    expect(session.document).toStrictEqual(armed);
  });
  it('goes with edits that are made meanwhile, and with an insert that goes', () => {
    const session = useSession();
    const compare = useCompare();
    compare.begin([ref], 'Compressor');
    session.commit('level', [{ type: 'strip.set', id: 'b', patch: { faderDb: -3 } }]);
    expect(session.heard!.strips.find((s) => s.id === 'b')!.faderDb).toBe(-3);
    expect(insertIn(session.heard)!.on).toBe(false);
    session.commit('remove', [{ type: 'insert.remove', strip: 'a', id: 'comp' }]);
    expect(insertIn(session.heard)).toBeUndefined();
    expect(session.heard!.strips.find((s) => s.id === 'b')!.faderDb).toBe(-3);
  });
});
