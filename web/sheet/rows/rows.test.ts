import { describe, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { newInsert } from '@core/session/defaults';
import { sheetRows } from './rows';

const demo = demoSession();

describe('the rows of the Sheet', () => {
  it('follow the signal: rails, cap, input, inserts, level, buttons, inserts after it, pan, sends, out', () => {
    const kinds = sheetRows(demo, 700).map((r) => r.kind);
    expect([...new Set(kinds)]).toEqual([
      'rail',
      'band',
      'cap',
      'input',
      'insert',
      'level',
      'buttons',
      'auto',
      'pan',
      'send',
      'out',
    ]);
    const keys = sheetRows(demo, 700).map((r) => r.key);
    expect(keys.indexOf('pre:0')).toBeLessThan(keys.indexOf('level'));
    expect(keys.indexOf('post:0')).toBeGreaterThan(keys.indexOf('level'));
    expect(keys.filter((k) => k.startsWith('send:'))).toEqual(['send:plate', 'send:slap']);
  });
  it('fill the height without gaps, and keep the fader usable when there is little', () => {
    for (const height of [200, 600, 1000]) {
      const rows = sheetRows(demo, height);
      rows.reduce((y, r) => (expect(r.y).toBe(y), y + r.height), 0);
      const last = rows.at(-1)!;
      if (height > 600) expect(last.y + last.height).toBe(height);
      expect(rows.find((r) => r.kind === 'level')!.height).toBeGreaterThanOrEqual(132);
    }
  });
  it('always leave a place for one more insert', () => {
    const full = {
      ...demo,
      strips: demo.strips.map((s) =>
        s.id === 'skin'
          ? { ...s, inserts: [1, 2, 3].map((n) => newInsert({ id: `i${n}`, type: 'reverb' })) }
          : s,
      ),
    };
    expect(sheetRows(full, 900).filter((r) => r.place === 'pre')).toHaveLength(4);
  });
});
