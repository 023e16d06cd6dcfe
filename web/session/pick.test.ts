import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { answer, newPage, small } from '@/testing/stores';
import { usePick } from './pick';
import { useSession } from './session';
import { useSettings } from './settings';

const server = vi.hoisted(() => ({ ask: vi.fn() }));
vi.mock('./sync/api', async (original) => ({ ...(await original<object>()), ask: server.ask }));
vi.mock('./sync/sessionSync', async () => ({ SessionSync: (await import('@/testing/fakes')).FakeSync }));

beforeEach(async () => {
  newPage();
  server.ask.mockReset().mockResolvedValue(answer(small));
  await useSession().open('one');
});
afterEach(() => vi.unstubAllGlobals());

it('stands in the order of the Sheet, whatever was picked first', () => {
  const pick = usePick();
  expect(pick.order).toEqual(['a', 'b', 'bus', 'main']);
  pick.only('bus');
  pick.toggle('a');
  expect(pick.picked).toEqual(['a', 'bus']);
  // The inspector shows what was picked last.
  expect(pick.shown).toBe('a');
  pick.toggle('a');
  expect([pick.picked, pick.shown]).toEqual([['bus'], 'bus']);
});

it('takes ranges from where it was begun, both ways, and adds to what was there where that is asked', () => {
  const pick = usePick();
  pick.only('b');
  pick.range('main');
  expect(pick.picked).toEqual(['b', 'bus', 'main']);
  pick.range('a');
  expect(pick.picked).toEqual(['a', 'b']);
  pick.only('main');
  pick.range('bus', new Set(['a']));
  expect(pick.picked).toEqual(['a', 'bus', 'main']);
  pick.range('nobody');
  expect(pick.chosen).toEqual(new Set(['nobody']));
  expect(pick.picked).toEqual([]);
});

it('gives an edit to all where it is made on one of them, else to that one alone', () => {
  const pick = usePick();
  pick.set(['a', 'b']);
  expect(pick.group('a')).toEqual(['a', 'b']);
  expect(pick.group('bus')).toEqual(['bus']);
  expect(pick.group('a', true)).toEqual(['a']);
});

it('forgets strips that have gone, and hidden ones are not among all', () => {
  const pick = usePick();
  const session = useSession();
  pick.all();
  expect(pick.picked).toHaveLength(4);
  session.commit('away', [{ type: 'strip.remove', id: 'a' }]);
  session.commit('hide', [{ type: 'strip.set', id: 'b', patch: { hidden: true } }]);
  expect(pick.picked).toEqual(['bus', 'main']);
  session.undo();
  expect(pick.picked).toEqual(['b', 'bus', 'main']);
  pick.none();
  expect([pick.picked, pick.shown]).toEqual([[], null]);
});

it('shows the strip with the keyboard where none is picked, as long as there is one', () => {
  const pick = usePick();
  pick.focus = { strip: 'b', row: 'cap' };
  expect(pick.shown).toBe('b');
  useSession().commit('away', [{ type: 'strip.remove', id: 'b' }]);
  expect(pick.shown).toBe(null);
});

it('keeps strips of folded bands among all, though they have no column', () => {
  const pick = usePick();
  useSettings().grouping = 'family';
  expect(pick.reachable).toEqual(['a', 'b', 'bus', 'main']);
  useSettings().foldedBands = ['No family'];
  expect(pick.reachable).toEqual(['bus', 'main']);
  expect(pick.order).toEqual(['a', 'b', 'bus', 'main']);
});
