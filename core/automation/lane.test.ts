import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { gainOf } from '../levels/decibels';
import type { Lane } from '../session/types';
import { FADER, insertControls, MUTE, PAN } from '../session/controls';
import { laneValue, ordered, pointsBefore, thinned } from './lane';

/**
 * Web Audio API (W3C Recommendation, 2021), AudioParam: the values of linearRampToValueAtTime and
 * exponentialRampToValueAtTime between two events.
 */
const linearRamp = (v0: number, v1: number, t0: number, t1: number, t: number) =>
  v0 + ((v1 - v0) * (t - t0)) / (t1 - t0);
const exponentialRamp = (v0: number, v1: number, t0: number, t1: number, t: number) =>
  v0 * (v1 / v0) ** ((t - t0) / (t1 - t0));

const times = fc.integer({ min: 0, max: 1000 }).map((n) => n / 1000);

describe('a lane between two points', () => {
  it('of a level within one stretch of the fader is an exponential ramp of the gain', () => {
    const lane: Lane = [
      [1, -12],
      [3, 0],
    ];
    fc.assert(
      fc.property(times, (share) => {
        const t = 1 + 2 * share;
        expect(gainOf(laneValue(FADER, lane, t))).toBeCloseTo(exponentialRamp(gainOf(-12), 1, 1, 3, t), 9);
      }),
    );
  });
  it('of a pan is a linear ramp, of a frequency an exponential one', () => {
    const corner = insertControls('equalizer').find((c) => c.id.toLowerCase().includes('freq'))!;
    fc.assert(
      fc.property(times, (share) => {
        const t = 10 * share;
        expect(
          laneValue(
            PAN,
            [
              [0, -1],
              [10, 0.5],
            ],
            t,
          ),
        ).toBeCloseTo(linearRamp(-1, 0.5, 0, 10, t), 9);
        const hertz = laneValue(
          corner,
          [
            [0, 100],
            [10, 1000],
          ],
          t,
        )!;
        expect(hertz / exponentialRamp(100, 1000, 0, 10, t)).toBeCloseTo(1, 6);
      }),
    );
  });
  it('of a switch stays as it was until the next', () => {
    const lane: Lane = [
      [1, 0],
      [2, 1],
      [3, 0],
    ];
    expect([0, 1, 1.99, 2, 2.99, 3, 9].map((t) => laneValue(MUTE, lane, t))).toEqual([0, 0, 0, 1, 1, 0, 0]);
  });
  it('begins and ends as its first and last points stand, and silence is reached at its point alone', () => {
    const lane: Lane = [
      [1, -6],
      [2, null],
    ];
    expect(laneValue(FADER, lane, 0)).toBe(-6);
    expect(laneValue(FADER, lane, 1.999)).not.toBeNull();
    expect(laneValue(FADER, lane, 2)).toBeNull();
    expect(laneValue(FADER, lane, 99)).toBeNull();
  });
  it('at a jump has one value before and one after', () => {
    const lane: Lane = [
      [0, -20],
      [1, -20],
      [1, 0],
      [2, 0],
    ];
    expect(laneValue(FADER, lane, 1, 'before')).toBe(-20);
    expect(laneValue(FADER, lane, 1)).toBe(0);
    expect(pointsBefore(lane, 1, 'before')).toBe(1);
    expect(pointsBefore(lane, 1)).toBe(3);
  });
});

describe('points that are left out', () => {
  it('leave the lane within the tolerance everywhere, and a straight line keeps its ends alone', () => {
    const walk = fc.array(fc.tuple(times, fc.integer({ min: -400, max: 120 })), {
      minLength: 2,
      maxLength: 60,
    });
    fc.assert(
      fc.property(walk, times, (points, t) => {
        const lane = ordered(points.map(([at, v]) => [at, v / 10] as const));
        const thin = thinned(FADER, lane, 0.02);
        const off = FADER.travelOf(laneValue(FADER, lane, t)) - FADER.travelOf(laneValue(FADER, thin, t));
        expect(Math.abs(off)).toBeLessThanOrEqual(0.02 + 1e-9);
      }),
      { numRuns: 300 },
    );
    const line = Array.from({ length: 50 }, (_, i) => [i / 10, -12 + i * 0.2] as const);
    expect(thinned(FADER, line, 1e-6)).toEqual([line[0], line[49]]);
  });
  it('of a switch are those that change nothing', () => {
    expect(
      thinned(
        MUTE,
        [
          [0, 0],
          [1, 0],
          [2, 1],
          [3, 1],
          [4, 0],
        ],
        0.1,
      ),
    ).toEqual([
      [0, 0],
      [2, 1],
      [4, 0],
    ]);
  });
});

describe('a control', () => {
  it('gives each value back from its travel, and from its text', () => {
    const all = [
      FADER,
      PAN,
      MUTE,
      ...['equalizer', 'compressor', 'delay', 'reverb'].flatMap((t) => insertControls(t)),
    ];
    for (const c of all)
      for (const travel of [0, 0.25, 0.5, 0.75, 1]) {
        const value = c.valueAt(travel);
        expect(c.valueAt(c.travelOf(value)) ?? -999).toBeCloseTo(value ?? -999, 5);
        expect(c.read(c.text(value))).not.toBeUndefined();
      }
  });
  it('that its processor’s latency depends on is not moved while it plays', () => {
    expect(insertControls('limiter').map((c) => c.id)).not.toContain('lookAhead');
    expect(insertControls('pitch').map((c) => c.id)).not.toContain('grain');
    expect(insertControls('pitch').map((c) => c.id)).toContain('semitones');
  });
});
