import { describe, expect, it } from 'vitest';
import { equalizer } from '../../processors/equalizer';
import { processors } from '../../processors/registry';
import { ENCODERS, processorPages } from './processorPages';

describe('pages of a processor on eight encoders', () => {
  // Common practice, no published source: bands of an equalizer page in pairs of four controls on eight encoders, four
  // pages for eight bands.
  it('of the equalizer are four, two bands of four controls each', () => {
    const pages = processorPages(equalizer);
    expect(pages.map((p) => p.name)).toEqual([
      'Low cut, Low shelf',
      'Bell 1, Bell 2',
      'Bell 3, Bell 4',
      'High shelf, High cut',
    ]);
    for (const page of pages) {
      expect(page.encoders).toHaveLength(ENCODERS);
      for (const half of [page.encoders.slice(0, 4), page.encoders.slice(4)]) {
        expect(new Set(half.flatMap((p) => p?.group ?? [])).size).toBe(1);
        expect(half[0]!.name).toBe('On');
        expect(half[1]!.name).toBe('Frequency');
      }
    }
  });
  it.each(processors.map((p) => [p.type, p] as const))('of %s hold every parameter once', (_, p) => {
    const held = processorPages(p).flatMap((page) => page.encoders.flatMap((x) => x ?? []));
    expect(held).toEqual(p.parameters);
  });
  it.each([1, 2, 4, 5, 8, 16])('fit a row of %i encoders, and hold every parameter once', (encoders) => {
    for (const p of processors) {
      const pages = processorPages(p, encoders);
      for (const page of pages) expect(page.encoders).toHaveLength(encoders);
      expect(pages.flatMap((page) => page.encoders.flatMap((x) => x ?? []))).toEqual(p.parameters);
    }
  });
});
