import { afterEach, expect, test, vi } from 'vitest';
import { ask, ServerError, toPairing } from './api';

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const at = (pathname: string) => {
  vi.useFakeTimers();
  const assign = vi.fn();
  vi.stubGlobal('location', { pathname, assign });
  return assign;
};
const stranger = () =>
  Promise.resolve(new Response('{"error":{"code":"code","message":"Say the code."}}', { status: 401 }));

test('who was not let in is sent to the question once, however many answers say so: what is typed there stays', async () => {
  const assign = at('/machines');
  vi.stubGlobal('fetch', stranger);
  toPairing();
  const asked = await Promise.all([1, 2, 3].map(() => ask('GET', '/settings').catch((e: unknown) => e)));
  expect(asked.every((e) => e instanceof ServerError && e.status === 401)).toBe(true);
  expect(assign.mock.calls).toEqual([['/pair?next=%2Fmachines']]);
  // A page that came back is sent there again.
  vi.advanceTimersByTime(10_000);
  toPairing();
  expect(assign).toHaveBeenCalledTimes(2);
  vi.advanceTimersByTime(10_000);
});

test('who stands before the question is not sent there again', async () => {
  const assign = at('/pair');
  vi.stubGlobal('fetch', stranger);
  await expect(ask('GET', '/settings')).rejects.toThrow('Say the code.');
  expect(assign).not.toHaveBeenCalled();
});
