import { expect, it } from 'vitest';
import { valueAt } from './plot';

it('a line has between its points what is drawn there, and nothing beyond them', () => {
  const line = {
    points: [
      [-72, -72],
      [0, 0],
      [10, 5],
    ] as const,
  };
  expect(valueAt(line, -72)).toBe(-72);
  expect(valueAt(line, -18)).toBe(-18);
  expect(valueAt(line, 4)).toBe(2);
  expect(valueAt(line, 10)).toBe(5);
  expect(valueAt(line, -73)).toBeNull();
  expect(valueAt(line, 11)).toBeNull();
  expect(valueAt({ points: [] }, 0)).toBeNull();
});
it('bars are at their own places alone', () => {
  const bars = {
    kind: 'bars' as const,
    points: [
      [0, 3],
      [2, 4],
    ] as const,
  };
  expect(valueAt(bars, 2)).toBe(4);
  expect(valueAt(bars, 1)).toBeNull();
});
