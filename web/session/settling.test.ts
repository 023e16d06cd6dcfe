import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Command } from '@core/edits/commands';
import { useSettling } from './settling';

const level = (id: string, faderDb: number): readonly Command[] => [
  { type: 'strip.set', id, patch: { faderDb } },
];
let live: ReturnType<
  typeof vi.fn<(drag: string, commands: readonly Command[] | null, soon: boolean) => void>
>;
let land: ReturnType<typeof vi.fn<(drag: string, label: string, commands: readonly Command[]) => void>>;
const made = () => {
  live = vi.fn();
  land = vi.fn();
  return useSettling(live, land);
};
beforeEach(() => vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] }));
afterEach(() => vi.useRealTimers());

describe('moves in single steps', () => {
  it('are shown as they come, and kept once when they have rested', () => {
    const { settle, waits } = made();
    for (let n = 1; n <= 5; n++) {
      settle('key', 'level', level('a', -n));
      vi.advanceTimersByTime(400);
    }
    expect([live.mock.calls.length, land.mock.calls.length, waits()]).toEqual([5, 0, true]);
    vi.advanceTimersByTime(400);
    expect(land.mock.calls).toEqual([['key', 'level', level('a', -5)]]);
    expect(waits()).toBe(false);
  });
  it('are taken back where nothing of them is to be kept', () => {
    const { settle, unsettle, waits } = made();
    settle('a', 'level', level('a', -3));
    settle('b', 'level', level('b', -3));
    unsettle();
    expect(live.mock.calls.slice(2)).toEqual([
      ['a', null, false],
      ['b', null, false],
    ]);
    vi.advanceTimersByTime(1000);
    expect([land.mock.calls.length, waits()]).toEqual([0, false]);
  });
  it('of eight knobs that are turned at once are kept each when it has rested, as one edit each', () => {
    const { settle } = made();
    for (let n = 0; n < 50; n++) {
      for (let k = 0; k < 8; k++) if (k !== 3 || n < 10) settle(`knob ${k}`, `${k}`, level(`s${k}`, -n));
      vi.advanceTimersByTime(50);
    }
    // One of them has rested; the others are still being turned.
    expect(land.mock.calls.map(([drag]) => drag)).toEqual(['knob 3']);
    vi.advanceTimersByTime(1000);
    expect(land).toHaveBeenCalledTimes(8);
    expect(land.mock.calls.at(-1)![2]).toEqual(level('s7', -49));
  });
  it('are all kept at once when something else is done, and not a second time', () => {
    const { settle, settled } = made();
    settle('a', 'A', level('a', -1));
    settle('b', 'B', level('b', -2), true);
    settled();
    settled();
    vi.advanceTimersByTime(2000);
    expect(land.mock.calls.map(([drag]) => drag)).toEqual(['a', 'b']);
    expect(live.mock.calls.map(([, , soon]) => soon)).toEqual([false, true]);
  });
});
