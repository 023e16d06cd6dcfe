import { svgPathBbox } from 'svg-path-bbox';
import { describe, expect, it } from 'vitest';
import { ICON_IDS } from '@core/naming/iconIds';
import { ICON_PATHS } from './stripIcons';
import { arc, box, line, oval, ring, shape } from './iconShapes';

const round = (path: string) => svgPathBbox(path).map((n) => Math.round(n * 10) / 10);

describe('icons of strips, measured by another reader of paths', () => {
  it.each(ICON_IDS.filter((i) => i !== 'none'))(
    '%s lies in its field of 24 by 24, and fills some of it',
    (icon) => {
      const [left, top, right, bottom] = svgPathBbox(ICON_PATHS[icon]);
      for (const edge of [left, top]) expect(edge).toBeGreaterThanOrEqual(-0.6);
      for (const edge of [right, bottom]) expect(edge).toBeLessThanOrEqual(24.6);
      expect(Math.max(right - left, bottom - top)).toBeGreaterThan(12);
    },
  );
  it('are no two alike', () => expect(new Set(Object.values(ICON_PATHS)).size).toBe(ICON_IDS.length - 1));
});

it.each([
  [oval(12, 12, 5, 3), [7, 9, 17, 15]],
  [ring(10, 10, 4), [6, 6, 14, 14]],
  [box(1, 2, 3, 4), [1, 2, 4, 6]],
  [box(1, 2, 3, 4, true), [1, 2, 4, 6]],
  [shape([0, 0], [4, 0], [2, 5]), [0, 0, 4, 5]],
  [line(2, 5, 10, 5, 2), [2, 4, 10, 6]],
  [arc(0, 0, 10, 0, 90, 2), [0, 0, 11, 11]],
])('%s', (path, box) => expect(round(path)).toEqual(box));
