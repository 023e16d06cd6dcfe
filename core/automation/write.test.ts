import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Lane } from '../session/types';
import { FADER, MUTE, PAN } from '../session/controls';
import { laneValue } from './lane';
import { afterPass, duringPass, GLIDE_SECONDS, moved, trimmed, type Pass } from './write';

const hand = (
  mode: Pass['mode'],
  moves: readonly (readonly [number, number | null])[],
  end: number,
): Pass => ({
  ...moves
    .slice(1)
    .reduce<Pass>((pass, [t, v]) => moved(pass, t, v), { mode, moves: [moves[0]!], end: null }),
  end,
});
const old: Lane = [
  [0, -10],
  [4, -10],
  [8, 0],
];

// Touch, latch and trim as they are told in console handbooks: common practice, no published source.
describe('touch', () => {
  const pass = hand(
    'touch',
    [
      [2, -4],
      [2.02, -3],
      [2.5, -2],
    ],
    3,
  );
  const lane = afterPass(FADER, old, -10, pass);
  const at = (t: number) => laneValue(FADER, lane, t)!;

  it('writes what the hand did while it held on', () => {
    expect(at(2.02)).toBeCloseTo(-3, 1);
    // It rested from 2.02 to 2.5: no glide between two moves that lie apart.
    expect(at(2.4)).toBeCloseTo(-3, 1);
    expect(at(2.9)).toBeCloseTo(-2, 5);
  });
  it('glides back to what was written before, over the set time, and leaves all else', () => {
    expect(at(3 + GLIDE_SECONDS / 2)).toBeCloseTo(-6, 1);
    for (const t of [0, 1, 1.999, 3 + GLIDE_SECONDS, 4, 5, 6, 8, 20])
      expect(at(t)).toBeCloseTo(laneValue(FADER, old, t)!, 2);
  });
  it('over no lane glides back to where the control was put', () => {
    const first = afterPass(FADER, null, -7, pass);
    expect(laneValue(FADER, first, 0)).toBe(-7);
    expect(laneValue(FADER, first, 2.9)).toBeCloseTo(-2, 5);
    expect(laneValue(FADER, first, 60)).toBe(-7);
  });
  it('keeps few points of a long even move', () => {
    const many = Array.from({ length: 200 }, (_, i) => [1 + i / 60, -10 + i / 25] as const);
    expect(afterPass(FADER, old, 0, hand('touch', many, 4.4)).length).toBeLessThan(14);
  });
});

describe('latch', () => {
  it('holds what was moved last until it ends', () => {
    const lane = afterPass(PAN, null, 0, hand('latch', [[1, 0.4]], 5));
    expect(laneValue(PAN, lane, 0.99)).toBe(0);
    expect(laneValue(PAN, lane, 1)).toBe(0.4);
    expect(laneValue(PAN, lane, 4.99)).toBeCloseTo(0.4, 9);
    expect(laneValue(PAN, lane, 6)).toBe(0);
  });
  it('of a switch goes back at once', () => {
    const lane = afterPass(
      MUTE,
      null,
      0,
      hand(
        'latch',
        [
          [1, 1],
          [2, 0],
          [3, 1],
        ],
        4,
      ),
    );
    expect([0.9, 1, 1.9, 2, 2.9, 3, 3.9, 4, 9].map((t) => laneValue(MUTE, lane, t))).toEqual([
      0, 1, 1, 0, 0, 1, 1, 0, 0,
    ]);
  });
});

describe('trim', () => {
  it('adds its decibels to the lane, and keeps the shape of it', () => {
    // At 2 s the lane is at -10; the hand goes to -7: three up, held past the bend at 4 s, let go at 6 s.
    const lane = afterPass(FADER, old, 0, hand('trim', [[2, -7]], 6));
    for (const t of [2, 3, 3.9, 4, 5, 5.9])
      expect(laneValue(FADER, lane, t)).toBeCloseTo(laneValue(FADER, old, t)! + 3, 1);
    for (const t of [0, 1.9, 6 + GLIDE_SECONDS, 8, 12])
      expect(laneValue(FADER, lane, t)).toBeCloseTo(laneValue(FADER, old, t)!, 1);
  });
  it('at rest moves the whole lane', () => {
    expect(trimmed(FADER, old, 1, -12)).toEqual([
      [0, -12],
      [4, -12],
      [8, -2],
    ]);
    expect(
      trimmed(
        FADER,
        [
          [0, null],
          [1, 0],
        ],
        1,
        3,
      ),
    ).toEqual([
      [0, null],
      [1, 3],
    ]);
  });
});

describe('any pass', () => {
  const moves = fc
    .array(fc.tuple(fc.integer({ min: 100, max: 900 }), fc.integer({ min: -600, max: 120 })), {
      minLength: 1,
      maxLength: 20,
    })
    .map((list) => list.map(([t, v]) => [t / 100, v / 10] as const).sort((a, b) => a[0] - b[0]));
  const modes = fc.constantFrom<Pass['mode']>('touch', 'latch', 'trim', 'write');

  it('leaves what lies before it and after its glide, goes forward in time, and stays within the fader', () => {
    fc.assert(
      fc.property(modes, moves, fc.integer({ min: 0, max: 200 }), (mode, list, t) => {
        const pass = hand(mode, list, 9.2);
        const lane = afterPass(FADER, old, -10, pass);
        lane.forEach(([at, v], i) => {
          expect(at).toBeGreaterThanOrEqual(lane[i - 1]?.[0] ?? 0);
          expect(v ?? 0).toBeLessThanOrEqual(12);
        });
        const before = (list[0]![0] * t) / 201;
        const after = 9.2 + GLIDE_SECONDS + t;
        expect(laneValue(FADER, lane, before)).toBeCloseTo(laneValue(FADER, old, before)!, 1);
        expect(laneValue(FADER, lane, after)).toBeCloseTo(laneValue(FADER, old, after)!, 2);
      }),
      { numRuns: 300 },
    );
  });
  it('is heard as the hand has it while it goes on, and as it is written when it has ended', () => {
    fc.assert(
      fc.property(modes, moves, (mode, list) => {
        const [time, value] = list.at(-1)!;
        const pass = hand(mode, list, time);
        const heard = laneValue(FADER, duringPass(FADER, old, pass), time)!;
        expect(heard).toBeCloseTo(value, 3);
      }),
      { numRuns: 300 },
    );
  });
});
