import { describe, expect, it } from 'vitest';
import { compilePlan } from '../core/plan/compile';
import { BLOCK, OP } from '../core/plan/layout';
import { processors } from '../core/processors/registry';
import { Engine } from './engine';
import { rehearsal, rehearse } from './rehearsal';
import { engineModule } from './testing/run';

describe('the rehearsal', () => {
  const session = rehearsal();
  const plan = compilePlan(session);

  it('has every processor on one channel and on two, packed ones as a full vector and alone', () => {
    for (const { type, packed } of processors) {
      const has = (channels: 1 | 2) =>
        session.strips.filter((s) => s.channels === channels && s.inserts.some((i) => i.type === type))
          .length;
      expect(has(1), type).toBeGreaterThanOrEqual(packed ? 5 : 1);
      expect(has(2), type).toBeGreaterThanOrEqual(1);
    }
    const lanes = plan.costs
      .filter(({ op }) => plan.words[op / 4] === OP.lanes)
      .map(({ op }) => plan.words[op / 4 + 2]);
    expect(lanes).toContain(4);
    expect(lanes).toContain(1);
    expect(plan.curves.length).toBeGreaterThan(0);
  });
  it('sounds: each of its processors has something to do', () => {
    const engine = new Engine(engineModule);
    engine.load(plan);
    let loudest = 0;
    for (let b = 0; b < 800; b++) {
      plan.sources.forEach((s, i) => {
        for (let c = 0; c < s.channels; c++)
          engine
            .input(i, c)
            .set(Float32Array.from({ length: BLOCK }, (_, k) => Math.sin((b * BLOCK + k) / 9) / 4));
      });
      engine.run();
      for (const x of engine.output(0, 0)) loudest = Math.max(loudest, Math.abs(x));
    }
    expect(loudest).toBeGreaterThan(0.05);
    expect(loudest).toBeLessThan(20);
    expect(engine.faults).toBe(0);
  });
  it('ends', () => {
    let now = 0;
    // A clock by which nothing ever gets faster.
    expect(() => rehearse(engineModule, () => now++)).not.toThrow();
  });
});
