import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import type { Session } from '../session/types';
import { automatedSessions, commandsFor, sessions } from '../testing/arbitraries';
import { compilePlan } from './compile';
import type { Curve } from './curve';
import { LivePlan } from './livePlan';
import type { Plan, PlanSteering } from './plan';
import { sameShape } from './shape';

/** What an engine has after it was told: targets of what nothing moves, and curves by their places. */
class Told {
  readonly targets: Float32Array;
  readonly curves: Map<number, Omit<Curve, 'at'>>;
  constructor(readonly plan: Plan) {
    this.targets = plan.targets.slice();
    this.curves = new Map(plan.curves.map(({ at, ...curve }) => [at, curve]));
  }
  steer({ runs, curves }: PlanSteering) {
    for (const { at, values } of runs) this.targets.set(values, at);
    for (const { at, curve } of curves)
      if (curve) this.curves.set(at, curve);
      else this.curves.delete(at);
  }
}
const asNew = (told: Told, session: Session) => {
  const plan = compilePlan(session);
  expect(told.plan.words).toEqual(plan.words);
  expect(told.plan.params).toEqual(plan.params);
  expect(told.targets).toEqual(plan.targets);
  expect(told.curves).toEqual(new Map(plan.curves.map(({ at, ...curve }) => [at, curve])));
};
const edited = (before: Session, commands: readonly Parameters<typeof apply>[1][number][]) => {
  try {
    return apply(before, commands).session;
  } catch {
    return before;
  }
};

describe('a plan that is steered', () => {
  it('stands where a plan that was made anew would, whatever the edits that leave its shape', () => {
    let steered = 0;
    const any = fc.oneof(sessions(8), automatedSessions(6));
    const runs = any.chain((s) =>
      fc.tuple(fc.constant(s), fc.array(fc.tuple(commandsFor(s), fc.nat(40)), { maxLength: 6 })),
    );
    fc.assert(
      fc.property(runs, ([first, edits]) => {
        let session = first;
        let live = new LivePlan(session);
        let told = new Told(live.give());
        for (const [command, near] of edits) {
          const next = edited(session, [command]);
          if (sameShape(session, next)) {
            told.steer(live.steer(next, [near, near + 5]));
            if (next !== session) steered++;
          } else {
            expect(() => live.steer(next, [0, 1])).toThrow('another shape');
            live = new LivePlan(next, {}, live);
            told = new Told(live.give());
          }
          session = next;
          // Drawing goes on between edits, in small portions.
          told.steer(live.draw(near, near + 3, () => true).told);
        }
        let turns = 0;
        for (let done = false; !done; turns++) {
          const { told: more, done: all } = live.draw(-Infinity, Infinity, () => turns % 3 === 0);
          told.steer(more);
          done = all;
        }
        expect(live.whole).toBe(true);
        asNew(told, session);
      }),
      { numRuns: 300 },
    );
    expect(steered).toBeGreaterThan(200);
  });

  it('tells of a moved fader its own values alone', () => {
    const [session] = fc.sample(sessions(14), { seed: 8, numRuns: 1 }) as [Session];
    const strip = session.strips.find((s) => s.kind === 'source')!;
    const still = { ...session, strips: session.strips.map((s) => ({ ...s, solo: false })), vcas: [] };
    const live = new LivePlan(still);
    const plan = live.give();
    const to = apply(still, [{ type: 'strip.set', id: strip.id, patch: { faderDb: -3.21, mute: false } }]);
    const { runs, curves } = live.steer(to.session, [0, 10]);
    const named = runs.map((r) => plan.params.find((p) => p.at === r.at)!.key);
    expect(named).toContain(`${strip.id}/fader`);
    expect(named.every((key) => key.startsWith(`${strip.id}/`))).toBe(true);
    expect(curves).toEqual([]);
  });
});
