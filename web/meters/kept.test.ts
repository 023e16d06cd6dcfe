import { beforeEach, describe, expect, it, vi } from 'vitest';
import { apply } from '@core/edits/apply';
import { newInsert } from '@core/session/defaults';
import { answer, newPage, said, small } from '@/testing/stores';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useKept } from './kept';
import { History } from './reduction';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));

const strips = small.strips.map((s) => s.id);
const [first, second] = strips as [string, string];
const session = apply(small, [
  { type: 'insert.add', strip: first, at: 0, insert: newInsert({ id: 'comp', type: 'compressor' }) },
  { type: 'insert.add', strip: first, at: 0, insert: newInsert({ id: 'eq', type: 'equalizer' }) },
]).session;

beforeEach(async () => {
  newPage();
  server.ask.mockReset().mockResolvedValue(answer(session));
  await useSession().open('one');
  useSettings().kept = {};
});

describe('meters that stay in view', () => {
  it('are of strips and of processors that turn down, and go when asked for again', () => {
    const kept = useKept();
    kept.toggle([{ strip: first }, { strip: second }]);
    kept.toggle([{ strip: first, insert: 'comp' }]);
    expect(kept.shown).toEqual([{ strip: first }, { strip: second }, { strip: first, insert: 'comp' }]);
    // Some of them there, some not: all are kept.
    kept.toggle([{ strip: second }, { strip: first, insert: 'comp' }]);
    expect(kept.shown).toEqual([{ strip: first }]);
    kept.drop({ strip: first });
    expect(kept.shown).toEqual([]);
  });
  it('are not of an insert that takes nothing away', () => {
    const kept = useKept();
    kept.toggle([{ strip: first, insert: 'eq' }]);
    expect(kept.shown).toEqual([]);
  });
  it('go with what they measure, and come back with its undo', async () => {
    const kept = useKept();
    kept.toggle([{ strip: first, insert: 'comp' }]);
    useSession().commit('remove', [{ type: 'insert.remove', strip: first, id: 'comp' }]);
    expect(kept.shown).toEqual([]);
    useSession().undo();
    expect(kept.shown).toHaveLength(1);
  });
  it('are twelve at most: one more is refused with what to do', () => {
    const kept = useKept();
    const many = Array.from({ length: 13 }, (_, i) => ({
      strip: strips[i % strips.length]!,
      insert: `x${i}`,
    }));
    kept.toggle(many);
    expect(kept.shown).toEqual([]);
    expect(said().at(-1)).toMatch(/At most 12 .* take one out/);
  });
  it('are kept for each session by itself', async () => {
    useKept().toggle([{ strip: first }]);
    const { id } = useSession();
    expect(useSettings().kept[id!]).toEqual([{ strip: first }]);
    useSettings().kept = { other: [{ strip: second }] };
    expect(useKept().shown).toEqual([]);
  });
});

describe('what was taken away of late', () => {
  it('is the most within each twentieth of a second, for six seconds', () => {
    const h = new History();
    for (let ms = 0; ms < 1000; ms += 10) h.push(ms === 500 ? 9 : 2, ms);
    expect(h.most).toBe(9);
    expect([0, 1, 2].map((back) => h.at(back))).toEqual([2, 2, 2]);
    expect(Array.from({ length: History.length }, (_, i) => h.at(i)).filter((v) => v === 9)).toHaveLength(1);
    for (let ms = 1000; ms < 8000; ms += 10) h.push(1, ms);
    expect(h.most).toBe(1);
  });
});
