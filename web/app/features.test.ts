import { afterEach, expect, it, vi } from 'vitest';
import { useCommands } from '@/commands/commands';
import { setFeatures, setViews } from '@/commands/feature';
import { newPage } from '@/testing/stores';
import { FEATURES } from './features';
import { VIEWS } from './views';

vi.mock('vue-router', async (original) => ({
  ...(await original<object>()),
  useRouter: () => ({ push: vi.fn(), currentRoute: { value: { name: 'sheet' } } }),
}));
afterEach(() => vi.unstubAllGlobals());

it('no two actions of the page have one id, and at first no key means two things in one place', () => {
  newPage();
  setViews(VIEWS);
  setFeatures(FEATURES);
  const commands = useCommands();
  const twice = (list: readonly string[]) => list.filter((x, i) => list.indexOf(x) !== i);
  expect(commands.list.length).toBeGreaterThan(80);
  expect(twice(commands.list.map((a) => a.id))).toEqual([]);
  expect(twice(commands.list.map((a) => a.keys).filter(Boolean))).toEqual([]);
  expect(commands.scopes.map((s) => s.scope)).toEqual(
    expect.arrayContaining(['sheet', 'lane', 'curve', 'slider', 'ribbon', 'flow']),
  );
  expect(twice(commands.scopes.map((s) => s.scope))).toEqual([]);
  for (const scope of commands.scopes) expect(twice(scope.keys.flatMap((k) => k.keys))).toEqual([]);
});
it('menus name actions that there are', async () => {
  const commands = useCommands();
  // Every id that a feature asks another for, as its source writes it.
  const sources = import.meta.glob(['../**/*.{ts,vue}', '!../**/*.test.ts'], {
    query: '?raw',
    import: 'default',
    eager: true,
  }) as Record<string, string>;
  const asked = Object.values(sources).flatMap((text) =>
    [...text.matchAll(/commands\.run\('([\w-]+)'/g)].map(([, id]) => id!),
  );
  expect(asked.length).toBeGreaterThan(10);
  for (const id of new Set(asked)) expect(() => commands.action(id)).not.toThrow();
});
