import type { Tempo } from '@core/session/types';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { gridTimes, spanWithin, zoomed } from './timeSpan';

const tempo: Tempo = { bpm: 96, beatsPerBar: 6, beatUnit: 8 };

describe('the part of the song that is looked at', () => {
  it('lies within the song, and keeps the time under the pointer where it is', () => {
    const part = fc.integer({ min: 0, max: 1000 }).map((n) => n / 1000);
    fc.assert(
      fc.property(part, part, part, fc.constantFrom(0.5, 2, 1.25, 100), (a, b, c, factor) => {
        const whole = 32;
        const span = spanWithin(a * whole, 1 + b * 10, whole);
        const around = span.start + c * span.length;
        const next = zoomed(span, factor, around, whole);
        expect(next.start).toBeGreaterThanOrEqual(0);
        expect(next.start + next.length).toBeLessThanOrEqual(whole + 1e-9);
        expect(next.length).toBeGreaterThanOrEqual(0.5);
        const inside = next.start > 1e-9 && next.start + next.length < whole - 1e-9;
        if (inside) expect((around - next.start) / next.length).toBeCloseTo(c, 6);
      }),
    );
  });
  it('has lines at beats when it is close, at bars when it is not, and at fewer from afar', () => {
    // 96 quarter notes a minute: an eighth lasts 0.3125 s, a bar of six of them 1.875 s.
    expect(gridTimes({ start: 0, length: 1 }, tempo, 0.1)).toEqual([0, 0.3125, 0.625, 0.9375]);
    expect(gridTimes({ start: 1, length: 4 }, tempo, 0.5)).toEqual([1.875, 3.75]);
    expect(gridTimes({ start: 0, length: 32 }, tempo, 3)).toEqual([
      0, 3.75, 7.5, 11.25, 15, 18.75, 22.5, 26.25, 30,
    ]);
  });
});
