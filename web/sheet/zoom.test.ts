import fc from 'fast-check';
import { expect, it } from 'vitest';
import { edgesOf, columnAt, type Column } from '@/session/columns';
import {
  bounded,
  FARTHEST,
  fitting,
  NEAREST,
  scrolledAfter,
  stepOf,
  travelOfWidth,
  wheelFactor,
  widthAtTravel,
} from './zoom';

it('two hundred columns fit a window of 1280 pixels, and one is as wide as may be', () => {
  const room = 1280 - 104 - 5 - 2;
  const width = fitting(200, room);
  expect(width).toBeGreaterThanOrEqual(5.8);
  expect(
    edgesOf(
      Array.from({ length: 200 }, () => ({}) as Column),
      () => width,
    ).at(-1),
  ).toBeLessThanOrEqual(room);
  expect([NaN, Infinity, 'x' as unknown as number].map(bounded)).toEqual([50, 50, 50]);
  expect([fitting(1, room), fitting(0, room), fitting(5000, room)]).toEqual([NEAREST, NEAREST, FARTHEST]);
});
it('says all in columns of a word, less in narrower ones, and marks alone from afar', () => {
  expect([6, 14, 20, 33, 34, 96].map(stepOf)).toEqual(['far', 'far', 'middle', 'middle', 'near', 'near']);
});
it('what is under the pointer stays under it, wherever it is and by however much', () => {
  const columns = Array.from({ length: 300 }, () => ({}) as Column);
  fc.assert(
    fc.property(
      fc.nat(8000),
      fc.nat(1000),
      fc.double({ min: 6, max: 100, noNaN: true }),
      fc.double({ min: 0.3, max: 3, noNaN: true }),
      (left, at, width, factor) => {
        const to = bounded(width * factor);
        const before = columnAt(
          edgesOf(columns, () => width),
          left + at,
        );
        const scrolled = scrolledAfter(left, at, to / width);
        // Where it would have to stand before the first column it cannot.
        if ((left + at) * (to / width) < at || before === 299) return;
        // Edges are of whole pixels: at one it may be the neighbour.
        expect(
          Math.abs(
            columnAt(
              edgesOf(columns, () => to),
              scrolled + at,
            ) - before,
          ),
        ).toBeLessThanOrEqual(1);
      },
    ),
  );
});
it('a slider goes by factors, there and back, and a wheel by no more than a third at once', () => {
  for (const width of [5, 6, 34, 50, 160]) expect(widthAtTravel(travelOfWidth(width))).toBeCloseTo(width, 9);
  expect(widthAtTravel(0.5) / widthAtTravel(0.25)).toBeCloseTo(widthAtTravel(0.75) / widthAtTravel(0.5), 9);
  expect(wheelFactor(100) * wheelFactor(-100)).toBeCloseTo(1, 12);
  expect(wheelFactor(-1e6)).toBeLessThan(1.36);
});
