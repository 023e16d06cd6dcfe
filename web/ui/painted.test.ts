import { expect, test } from 'vitest';
import { Painted } from './painted';

const look = (painted: Painted, ...values: unknown[]) => {
  const note = painted.begin();
  for (const value of values) note(value);
  return painted.other;
};

test('a picture is painted the first time, and then only where something it is painted from is another', () => {
  const painted = new Painted();
  const places = [1, 2];
  expect(look(painted, places, 0.5, Number.NaN)).toBe(true);
  expect(look(painted, places, 0.5, Number.NaN)).toBe(false);
  expect(look(painted, places, 0.25, Number.NaN)).toBe(true);
  expect(look(painted, [1, 2], 0.25, Number.NaN)).toBe(true);
});

test('more values than before, and fewer, are another picture', () => {
  const painted = new Painted();
  look(painted, 1, 2);
  expect(look(painted, 1, 2, 3)).toBe(true);
  expect(look(painted, 1, 2, 3)).toBe(false);
  expect(look(painted, 1)).toBe(true);
  expect(look(painted, 1)).toBe(false);
  // What was there before the fewer is not taken for known.
  expect(look(painted, 1, 2, 3)).toBe(true);
});
