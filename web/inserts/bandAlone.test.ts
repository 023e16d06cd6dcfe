import { beforeEach, describe, expect, it, vi } from 'vitest';
import { equalizer } from '@core/processors/equalizer';
import { newInsert } from '@core/session/defaults';
import type { Session } from '@core/session/types';
import { useSession } from '@/session/session';
import { FakeSync } from '@/testing/fakes';
import { answer, newPage, small } from '@/testing/stores';
import { useBandAlone } from './bandAlone';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('vue', async (original) => ({ ...(await original<object>()), onBeforeUnmount: () => {} }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));

const equalized: Session = {
  ...small,
  strips: small.strips.map((s) =>
    s.id === 'a'
      ? {
          ...s,
          inserts: [
            newInsert({
              id: 'eq',
              type: 'equalizer',
              on: false,
              params: { bell2Frequency: 1000 },
              lanes: { bell2Gain: [[0, 3]] },
            }),
          ],
        }
      : s,
  ),
};
const insertIn = (session: Session | null) => session!.strips.find((s) => s.id === 'a')!.inserts[0]!;
const level = (session: Session | null, hertz: number) =>
  equalizer.responseAt!(hertz, insertIn(session).params, 48000);

beforeEach(async () => {
  newPage();
  server.ask.mockReset().mockResolvedValue(answer(equalized));
  await useSession().open('one');
});

describe('a band alone', () => {
  it('is heard while its point is held, whatever else the equalizer does, and nothing is edited', () => {
    const session = useSession();
    const { alone, begin, end } = useBandAlone(() => ({ strip: 'a', id: 'eq' }));
    begin(3);
    expect(alone.value).toBe(3);
    expect(insertIn(session.heard)).toMatchObject({ on: true, mix: 1, lanes: {} });
    expect(level(session.heard, 1000)).toBeGreaterThan(-2);
    expect(level(session.heard, 100)).toBeLessThan(-40);
    expect(session.shown).toBe(session.document);
    expect(FakeSync.last.told).toEqual([]);
    // It goes with the point.
    session.live('insert eq', [
      { type: 'insert.set', strip: 'a', id: 'eq', patch: { params: { bell2Frequency: 200 } } },
    ]);
    expect(level(session.heard, 200)).toBeGreaterThan(-2);
    end();
    expect(alone.value).toBeNull();
    expect(insertIn(session.heard).on).toBe(false);
  });
  it('gives back what was listened to before', () => {
    const session = useSession();
    const muted = () => [{ type: 'strip.set', id: 'a', patch: { mute: true } }] as const;
    session.listening = muted;
    const { begin, end } = useBandAlone(() => ({ strip: 'a', id: 'eq' }));
    begin(0);
    begin(1);
    end();
    expect(session.listening).toBe(muted);
  });
});
