import { createPinia, setActivePinia } from 'pinia';
import { expect, it, vi } from 'vitest';
import { usePresets } from './presets';

const answers: ((presets: readonly unknown[]) => void)[] = [];
vi.mock('@/session/sync/api', () => ({
  ask: () => new Promise((done) => answers.push((presets) => done({ presets }))),
}));

it('the list is what was asked for last, in whatever order the answers come', async () => {
  setActivePinia(createPinia());
  const presets = usePresets();
  const [first, second] = [presets.load(), presets.load()];
  answers[1]!([{ id: 'new', preset: {} }]);
  await second;
  answers[0]!([]);
  await first;
  expect(presets.own.map((p) => p.id)).toEqual(['new']);
});
