import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { demoSession } from '../../demo/session';
import { setFeatures, setViews } from '@/commands/feature';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { answer, newPage, said } from '@/testing/stores';
import { FEATURES } from './features';
import { kindOf, sheetRows } from '@/sheet/rows/rows';
import { useSheetTools } from '@/sheet/rows/tools';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
const pushed = vi.hoisted(() => vi.fn());
vi.mock('@/session/sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('@/session/sync/sessionSync', async () => ({
  SessionSync: (await import('@/testing/fakes')).FakeSync,
}));
vi.mock('@/audio/player', async () => ({ Player: (await import('@/testing/fakes')).FakePlayer }));
vi.mock('vue-router', () => ({ useRouter: () => ({ push: pushed }) }));

const demo = demoSession();
const rows = sheetRows(demo, 900);
/** A source, a keyed one, a submix, a return and the output. */
const STRIPS = ['skin', 'bass-di', 'percussion', 'plate', 'main'].filter((id) =>
  demo.strips.some((s) => s.id === id),
);

beforeEach(async () => {
  newPage();
  vi.stubGlobal('Element', class {});
  vi.stubGlobal('document', { querySelector: () => null, getElementById: () => null, activeElement: null });
  setViews([]);
  setFeatures(FEATURES);
  server.ask.mockReset().mockResolvedValue(answer(demo));
  await useSession().open('one');
});
afterEach(() => vi.unstubAllGlobals());

describe('menus of the Sheet', () => {
  const tools = () => useSheetTools({ type: () => {}, renameVca: () => {} });
  const cells = STRIPS.flatMap((strip) =>
    rows.map((row) => [`${strip} ${row.key}`, { strip, row }] as const),
  );

  it.each(cells)(
    '%s: each line has a name of its own, and what edits is one step that undo takes back',
    (_n, spot) => {
      const session = useSession();
      const t = tools();
      const open = () => kindOf(spot.row).menu?.(t, spot, { x: 0, y: 0 }) ?? null;
      const menu = open();
      if (!menu) return;
      expect(menu.title).not.toBe('');
      const labels = menu.items.map((i) => i.label);
      expect(labels.every((l) => l.trim() !== '')).toBe(true);
      expect(new Set(labels).size).toBe(labels.length);
      for (const label of labels) {
        // What is picked by one line is not what the next is meant for.
        usePick().none();
        const item = open()!.items.find((i) => i.label === label)!;
        if (item.disabled) continue;
        const before = session.document;
        item.run();
        if (session.document === before) continue;
        expect(session.undoLabel, label).not.toBeNull();
        session.undo();
        expect(session.document, label).toEqual(demo);
        expect(session.undoLabel, label).toBeNull();
      }
      // What a line can only say is a whole sentence, with what to do.
      for (const text of said()) expect(text).toMatch(/^[`\p{Lu}].*\.$/u);
    },
  );

  it('are there for every row of a source; inserts and modes open lists of their own', () => {
    const t = tools();
    const without = rows.filter((row) => !kindOf(row).menu?.(t, { strip: 'skin', row }, { x: 0, y: 0 }));
    expect(without.map((r) => r.kind).filter((k) => !['band', 'rail', 'insert', 'auto'].includes(k))).toEqual(
      [],
    );
  });
});
