import { expect, it } from 'vitest';
import { HeldLevel } from './heldLevel';

it('a level is the highest of both sides, held for a second, then what is there', () => {
  const held = new HeldLevel();
  held.push([], 0);
  expect(held.level).toBeNull();
  held.push([null, -20], 10);
  expect(held.level).toBe(-20);
  held.push([-6, -8], 20);
  held.push([-30, -31], 900);
  expect(held.level).toBe(-6);
  held.push([-30, -31], 1021);
  expect(held.level).toBe(-30);
  held.push([null, null], 2022);
  expect(held.level).toBeNull();
});
