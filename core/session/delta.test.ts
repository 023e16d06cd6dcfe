import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { automatedSessions, commandsFor, sessions } from '../testing/arbitraries';
import { apply } from '../edits/apply';
import { deltaOf, withDelta, type Delta } from './delta';
import type { Session } from './types';

/** As a copy that was posted has it. */
const posted = (delta: Delta | null) => structuredClone(delta);
const follow = (before: unknown, after: unknown): unknown => {
  const delta = posted(deltaOf(before, after));
  return delta ? withDelta(structuredClone(before), delta) : structuredClone(before);
};

describe('a delta', () => {
  it('brings a copy of any session to any other', () => {
    const any = fc.oneof(sessions(8), automatedSessions(6));
    fc.assert(
      fc.property(any, any, (a, b) => {
        expect(follow(a, b)).toEqual(b);
      }),
      { numRuns: 150 },
    );
  });
  it('of an edit brings a copy there, and leaves alone what the edit leaves alone', () => {
    const edited = fc
      .oneof(sessions(8), automatedSessions(6))
      .chain((s) => fc.tuple(fc.constant(s), fc.array(commandsFor(s), { minLength: 1, maxLength: 4 })));
    fc.assert(
      fc.property(edited, ([before, commands]) => {
        let after: Session;
        try {
          after = apply(before, commands).session;
        } catch {
          return;
        }
        const copy = structuredClone(before);
        const delta = posted(deltaOf(before, after));
        const there = (delta ? withDelta(copy, delta) : copy) as Session;
        expect(there).toEqual(after);
        after.strips.forEach((s, i) => {
          const at = before.strips.indexOf(s);
          if (at >= 0) expect(there.strips[i]).toBe(copy.strips[at]);
        });
      }),
      { numRuns: 300 },
    );
  });
  it('of one level is no longer than the edit, however long the lanes beside it are', () => {
    const [long] = fc.sample(automatedSessions(8), { seed: 4, numRuns: 1 }) as [Session];
    const [first] = long.strips;
    const after = apply(long, [{ type: 'strip.set', id: first!.id, patch: { faderDb: -33 } }]).session;
    expect(JSON.stringify(deltaOf(long, after)).length).toBeLessThan(250);
  });
  it('of a lane is as long as what has changed of it, whatever that is', () => {
    const point = fc.tuple(fc.integer({ min: 0, max: 5 }), fc.constantFrom(-0, 0, 1, null));
    const lane = fc.array(point, { maxLength: 8 });
    fc.assert(
      fc.property(lane, lane, (before, after) => {
        expect(follow({ lane: before }, { lane: after })).toEqual({ lane: after });
      }),
      { numRuns: 1000 },
    );
    const long = Array.from({ length: 5000 }, (_, i) => [i, -6] as const);
    const moved = long.map((p, i) => (i === 1200 ? ([1200.5, -3] as const) : p));
    const delta = deltaOf(long, moved)!;
    expect(delta).toEqual({ points: Float64Array.of(1200.5, -3), head: 1200, tail: 3799 });
    expect((withDelta(long, delta) as typeof long)[4000]).toBe(long[4000]);
  });
  it('leaves lists as they are that only begin like a lane', () => {
    for (const after of [
      [[0, 1], 3],
      [[0, 1], [2]],
      [
        [0, 1],
        [2, 'x'],
      ],
    ])
      expect(follow([[0, 1]], after)).toEqual(after);
  });
  it('keeps null, empty lists and silence in lanes what they are', () => {
    const silent = Array.from({ length: 20 }, (_, i) => [i, i % 2 ? null : -i]);
    for (const after of [null, [], {}, [[]], { a: [], b: null }, { lanes: { fader: silent } }, silent, 3])
      expect(follow({ a: 1, lanes: {} }, after)).toEqual(after);
  });
});
