import { describe, expect, it } from 'vitest';
import { BLOCK } from '../core/plan/layout';
import { readCurve, type Curve } from '../core/plan/curve';
import { Drive, type Tables } from './drive';
import { Timeline } from './timeline';

const RUNS = 12;
const WIDTH = 4;
const PARAMS = RUNS * WIDTH;

function tablesOf(): Tables {
  const floats = () => new Float32Array(PARAMS);
  return {
    targets: floats(),
    current: floats(),
    previous: floats(),
    steps: new Uint8Array(PARAMS),
    ends: floats(),
    turns: floats(),
    paths: new Uint32Array(PARAMS),
    rows: new Float32Array(PARAMS * BLOCK),
    rowsAt: 0,
  };
}

describe('curves that are changed one by one', () => {
  // Numerical Recipes' quick generator, so that a failure can be looked at again.
  let seed = 7;
  const random = (below: number) => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return Math.floor((seed / 2 ** 32) * below);
  };
  const curveOf = (count: number): Omit<Curve, 'at'> => {
    const knots = 2 + random(4);
    return {
      count,
      behind: 0,
      jump: 120,
      frames: Float64Array.from({ length: knots }, (_, i) => i * 500),
      values: Float32Array.from({ length: knots * count }, () => random(100) / 100),
    };
  };

  it('move what they would if all were told anew, and say whether other parameters are moved', () => {
    const timeline = new Timeline();
    const drive = new Drive(timeline);
    const tables = tablesOf();
    drive.look(tables);
    const wanted = new Map<number, Omit<Curve, 'at'>>();
    const places = () =>
      [...wanted].flatMap(([at, { count }]) => Array.from({ length: count }, (_, i) => at + i));
    for (let step = 0; step < 400; step++) {
      const before = new Set(places());
      const chosen = new Set(Array.from({ length: random(4) }, () => random(RUNS) * WIDTH));
      const changes = [...chosen].map((at) => {
        const curve = random(3) === 0 ? null : curveOf(wanted.get(at)?.count ?? 1 + random(WIDTH));
        if (curve) wanted.set(at, curve);
        else wanted.delete(at);
        return { at, curve };
      });
      tables.targets.fill(0.123);
      const others = drive.change(changes);
      const after = new Set(places());
      expect([...drive.moved()].sort((a, b) => a - b)).toEqual([...after].sort((a, b) => a - b));
      if (before.size !== after.size || [...after].some((p) => !before.has(p))) expect(others).toBe(true);
      // What it moves of what was changed stays where it is, whatever a hand was told; all else is left to the hand.
      const changed = new Set(
        changes.filter((c) => c.curve && wanted.get(c.at) === c.curve).map((c) => c.at),
      );
      for (const at of changed) expect(tables.targets[at]).toBe(tables.current[at]);
      for (let p = 0; p < PARAMS; p++) if (!after.has(p)) expect(tables.targets[p]).toBeCloseTo(0.123, 6);
      const frame = random(2500);
      timeline.settle(step * BLOCK, frame);
      drive.settle(step * BLOCK);
      const read = new Float32Array(PARAMS);
      for (const [at, curve] of wanted) readCurve({ at, ...curve }, frame - 1, read, 0);
      for (const p of after) expect(Math.abs(tables.current[p]! - read[p]!)).toBeLessThan(0.01);
    }
    expect(wanted.size).toBeGreaterThan(2);
  });
  it('a run that a hand was told to move stays where its curve has it, and no other is touched', () => {
    const drive = new Drive(new Timeline());
    const tables = tablesOf();
    drive.look(tables);
    drive.follow([
      { at: 0, ...curveOf(2) },
      { at: 8, ...curveOf(3) },
    ]);
    tables.current.fill(0.5);
    tables.targets.fill(1);
    drive.claim(8);
    drive.claim(4);
    expect([...tables.targets]).toEqual(
      Array.from({ length: PARAMS }, (_, i) => (i >= 8 && i < 11 ? 0.5 : 1)),
    );
  });
});
