import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { Paced } from './pace';

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const turn = () => Promise.resolve();

it('what is asked for many times at once is done once, when what goes on is done', async () => {
  const work = vi.fn();
  const paced = new Paced(work, 10);
  for (let k = 0; k < 8; k++) paced.ask();
  expect(work).not.toHaveBeenCalled();
  await turn();
  expect(work).toHaveBeenCalledTimes(1);
});
it('a burst waits for nothing, and a hand that never lets go is slowed to the pace', async () => {
  const work = vi.fn();
  const paced = new Paced(work, 10, 4);
  for (let k = 0; k < 4; k++) {
    paced.ask();
    await turn();
  }
  expect(work).toHaveBeenCalledTimes(4);
  // Then a move a millisecond, for a second.
  for (let ms = 0; ms < 1000; ms++) {
    paced.ask();
    await turn();
    vi.advanceTimersByTime(1);
  }
  expect(work.mock.calls.length).toBeGreaterThan(90);
  expect(work.mock.calls.length).toBeLessThan(110);
  // The last of them is never left undone.
  const before = work.mock.calls.length;
  paced.ask();
  vi.advanceTimersByTime(11);
  await turn();
  expect(work.mock.calls.length).toBe(before + 1);
});
it('in a hidden window it is done at once, as its timers are slow', async () => {
  vi.stubGlobal('document', { hidden: true });
  const work = vi.fn();
  const paced = new Paced(work, 10, 1);
  for (let k = 0; k < 20; k++) {
    paced.ask();
    await turn();
  }
  expect(work).toHaveBeenCalledTimes(20);
});
it('can be done before its time, and not at all once it is closed', async () => {
  const work = vi.fn();
  const paced = new Paced(work, 10);
  paced.ask();
  paced.run();
  paced.run();
  await turn();
  expect(work).toHaveBeenCalledTimes(1);
  paced.ask();
  paced.close();
  await turn();
  vi.advanceTimersByTime(100);
  expect(work).toHaveBeenCalledTimes(1);
});
