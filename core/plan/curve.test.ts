import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { processors } from '../processors/registry';
import { newInsert, newSession, newStrip } from '../session/defaults';
import { compilePlan } from './compile';
import type { When } from '../automation/at';
import { laneValue, ordered } from '../automation/lane';
import { FADER, PAN } from '../session/controls';
import type { Lane, LanePoint } from '../session/types';
import { gainOf } from '../levels/decibels';
import { CurveDrawing } from './curve';

const RATE = 48000;
/** Two values that hang on a fader's lane and on a pan's. */
const made = ([fader, pan]: readonly Lane[], count = { calls: 0 }) => ({
  make: (when: When) => {
    count.calls++;
    const gain = gainOf(laneValue(FADER, fader!, when.time, when.side));
    const side = laneValue(PAN, pan!, when.time, when.side) ?? 0;
    return [gain * (1 - side), gain * (1 + side)];
  },
  count,
});
const drawing = (lanes: readonly Lane[], before: CurveDrawing | null = null) => {
  const { make, count } = made(lanes);
  return { drawing: new CurveDrawing(lanes, make, RATE, 0, before), count };
};

describe('a curve whose lanes change', () => {
  // Times on a coarse grid, so that points of both lanes often fall together, and jumps are frequent.
  const time = fc.integer({ min: 0, max: 12 }).map((k) => k / 4);
  const level = fc.constantFrom(-20, -6, 0, 6, null);
  const side = fc.constantFrom(-1, -0.5, 0, 1);
  const laneOf = (value: fc.Arbitrary<number | null>) =>
    fc.array(fc.tuple(time, value), { minLength: 1, maxLength: 14 }).map((points) => ordered(points));
  const editOf = (value: fc.Arbitrary<number | null>) =>
    fc.record({ at: fc.nat(13), gone: fc.nat(3), come: fc.array(fc.tuple(time, value), { maxLength: 3 }) });
  const edited = (
    lane: Lane,
    { at, gone, come }: { at: number; gone: number; come: readonly LanePoint[] },
  ) => {
    const next = ordered([...lane.slice(0, at), ...come, ...lane.slice(at + gone)]);
    return next.length ? next : lane;
  };

  it('keeps what is as it was, and is the curve that is drawn from nothing', () => {
    const two = fc.tuple(laneOf(level), laneOf(side));
    const edits = fc.array(fc.tuple(editOf(level), editOf(side), time, fc.boolean()), {
      minLength: 1,
      maxLength: 5,
    });
    let spared = 0;
    fc.assert(
      fc.property(two, edits, (first, all) => {
        let lanes: readonly [Lane, Lane] = first;
        let known = drawing(lanes).drawing;
        for (const [fader, pan, near, whole] of all) {
          // Now and then it is left half drawn.
          if (whole) known.drawWhole();
          else known.draw(near, near + 0.5);
          lanes = [edited(lanes[0], fader), edited(lanes[1], pan)];
          known = drawing(lanes, known).drawing;
        }
        const last = drawing(lanes, known);
        const anew = drawing(lanes);
        expect(last.drawing.drawWhole()).toEqual(anew.drawing.drawWhole());
        if (last.count.calls < anew.count.calls) spared++;
      }),
      { numRuns: 800 },
    );
    expect(spared).toBeGreaterThan(100);
  });

  it('draws two stretches of 240 where one point is moved', () => {
    const fader: Lane = Array.from({ length: 240 }, (_, i) => [i * 0.75, -12 + 6 * Math.sin(i)]);
    const pan: Lane = [[0, 0]];
    const first = drawing([fader, pan]);
    first.drawing.drawWhole();
    const moved = drawing(
      [fader.map((p, i): LanePoint => (i === 100 ? [p[0], -3] : [...p])), [[0, 0]]],
      first.drawing,
    );
    moved.drawing.draw(75, 75);
    expect(moved.drawing.whole).toBe(true);
    expect(moved.count.calls).toBeLessThan(first.count.calls / 30);
  });
});

// A number that goes through nothing strays from a straight line by any share of itself; it once took a knot every five frames, over all of
// a lane, where a shelf's gain goes through 0 dB.
describe('a lane that goes from end to end', () => {
  const base = newSession('Knots');
  const settings: Readonly<Record<string, Readonly<Record<string, number>>>> = {
    equalizer: { bell1Gain: 6, lowShelfGain: -9, highShelfGain: 12, lowCutOn: 1, highCutOn: 1 },
    dynamicEqualizer: { lowShelfRange: -12, bell1Range: 24, bell2Range: -9, bell2Gain: 3, highShelfRange: 8 },
  };
  // Of a reverb it moves reflections from frame to frame, each at its own time.
  const others = processors.filter((p) => p.type !== 'reverb');
  it.each(others.map((p) => [p.type, p] as const))(
    'takes few knots, whatever of a %s it moves',
    (type, p) => {
      for (const q of p.parameters.filter((x) => !x.latent && !x.choices)) {
        const lanes = {
          [q.id]: [
            [0, q.min],
            [10, q.max],
            [20, q.default],
          ] as const,
        };
        const insert = newInsert({ id: 'x', type, params: settings[type] ?? {}, lanes });
        const strip = newStrip({
          id: 's',
          kind: 'source',
          name: 's',
          channels: 2,
          out: { to: 'main', on: true },
          inserts: [insert],
        });
        const { curves } = compilePlan({ ...base, strips: [strip, ...base.strips] });
        const knots = curves.reduce((n, c) => n + c.frames.length, 0);
        expect(knots, q.id).toBeLessThan(1500);
      }
    },
  );
});
