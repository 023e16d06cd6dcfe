import { describe, expect, it } from 'vitest';
import { isVNode } from 'vue';
import { largeSession } from '../../../demo/large';
import { demoSession } from '../../../demo/session';
import fc from 'fast-check';
import { newInsert, newStrip } from '@core/session/defaults';
import type { Strip } from '@core/session/types';
import type { Column } from './kind';
import { kindOf, sheetRows } from './rows';

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
      expect(rows.find((r) => r.kind === 'level')!.height).toBeGreaterThanOrEqual(140);
    }
  });
  it('fold where there is too little room for the fader: rails to a braid, then sends to those in use, then to the loudest', () => {
    const large = largeSession();
    const kinds = (height: number, view = {}) => sheetRows(large, height, view).map((r) => r.kind);
    const count = (list: readonly string[], kind: string) => list.filter((k) => k === kind).length;
    const tall = kinds(1400);
    expect([count(tall, 'rail'), count(tall, 'braid'), count(tall, 'send')]).toEqual([8, 0, 10]);
    // The rows of a window of 1280x800.
    const small = sheetRows(large, 652);
    expect(small.find((r) => r.kind === 'level')!.height).toBeGreaterThanOrEqual(140);
    expect(small.at(-1)!.y + small.at(-1)!.height).toBe(652);
    expect([count(kinds(652), 'rail'), count(kinds(652), 'braid')]).toEqual([1, 1]);
    const used = kinds(652, { used: new Set(['hall', 'plate']) });
    expect([count(used, 'send'), count(used, 'loudest')]).toEqual([2, 0]);
    expect([count(kinds(652), 'send'), count(kinds(652), 'loudest')]).toEqual([0, 1]);
    // What is asked for is kept, however little room there is.
    const asked = kinds(500, { braided: false, sends: 'all' });
    expect([count(asked, 'rail'), count(asked, 'send')]).toEqual([8, 10]);
    // The rail in hand has its row.
    expect(sheetRows(large, 652, { hand: 'vca-keys' }).find((r) => r.kind === 'rail')!.ref).toBe('vca-keys');
    // A bar that takes some of the height changes nothing of what there is.
    expect(kinds(1300, { room: 1400 })).toEqual(tall);
  });
  it('say less from farther, and what they say fits', () => {
    const large = largeSession();
    const keys = (step: 'far' | 'middle' | 'near') => sheetRows(large, 652, { step }).map((r) => r.kind);
    expect(keys('far')).toEqual(['braid', 'band', 'cap', 'level', 'buttons', 'loudest']);
    expect(new Set(keys('middle'))).toEqual(
      new Set(['braid', 'rail', 'band', 'cap', 'insert', 'level', 'buttons', 'auto', 'pan', 'send']),
    );
    for (const step of ['far', 'middle', 'near'] as const) {
      const rows = sheetRows(large, 652, { step });
      rows.reduce((y, r) => (expect(r.y).toBe(y), y + r.height), 0);
      expect(rows.at(-1)!.y + rows.at(-1)!.height).toBe(652);
      expect(rows.find((r) => r.kind === 'level')!.height).toBeGreaterThanOrEqual(140);
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

describe('a cell of the Sheet', () => {
  const rows = sheetRows(demo, 900);
  const strips = [
    ...demo.strips,
    newStrip({ id: 'bare', kind: 'source', name: 'Bare', out: { to: 'main', on: true } }),
  ];
  const lane = [[0, 0] as const];
  /** A strip that differs from another in one decision. */
  const changed = (s: Strip): fc.Arbitrary<Strip> =>
    fc.oneof(
      fc.double({ min: -60, max: 12, noNaN: true }).map((faderDb) => ({ ...s, faderDb })),
      fc
        .constantFrom<Partial<Strip>>(
          { trimDb: 3 },
          { pan: -0.4 },
          { width: 0.5 },
          { invert: !s.invert },
          { swap: !s.swap },
          { mute: !s.mute },
          { solo: !s.solo },
          { soloSafe: !s.soloSafe },
          { name: 'Elsewhere' },
          { channels: s.channels === 1 ? 2 : 1 },
          { automation: 'touch' },
          { lanes: { fader: lane } },
          { out: { ...s.out, on: !s.out.on } },
          { inserts: [newInsert({ id: 'i9', type: 'reverb' }), ...s.inserts] },
          { inserts: s.inserts.map((i) => ({ ...i, on: !i.on })) },
          { sends: s.sends.map((x) => ({ ...x, on: !x.on })) },
          { sends: s.sends.map((x) => ({ ...x, levelDb: -33, pan: 0.2, tap: 'pre' as const })) },
          { sends: s.sends.slice(1) },
        )
        .map((patch) => ({ ...s, ...patch })),
      fc.constantFrom(...strips),
    );
  const column = (strip: Strip): fc.Arbitrary<Column> =>
    fc.record({
      strip: fc.constant(strip),
      name: fc.constant(strip.name),
      number: fc.constantFrom(1, 2),
      width: fc.constantFrom(30, 44, 90),
      characters: fc.constantFrom(4, 9),
      rails: fc.constantFrom(
        rows.map(() => 'none' as const),
        rows.map(() => 'knot' as const),
      ),
      rows: fc.constant(rows),
      effective: fc.constantFrom(-3, -12),
      held: fc.boolean(),
      audible: fc.boolean(),
      picked: fc.boolean(),
      outName: fc.constantFrom('Main', 'Bass blend'),
      editedInsert: fc.constantFrom(null, strip.inserts[0]?.id ?? null),
      dry: fc.constantFrom<string[][]>(
        [],
        strip.inserts.map((i) => i.id),
      ),
      preamp: fc.constantFrom<Column['preamp'][]>(null, 'settled', 'open'),
      units: fc.constantFrom('', '1', '1 2'),
      writing: fc.constantFrom<Column['writing'][]>(null, []),
    });
  const two = fc
    .constantFrom(...strips)
    .chain((s) => fc.tuple(column(s), changed(s).chain(column)))
    // Often but one thing differs, so that no other one hides it.
    .chain(([a, b]) =>
      fc.constantFrom(
        [a, b] as const,
        ...(Object.keys(a) as (keyof Column)[]).map((k) => [a, { ...a, [k]: b[k] }] as const),
      ),
    );
  const plain = (node: unknown): unknown =>
    Array.isArray(node)
      ? node.map(plain)
      : isVNode(node)
        ? [typeof node.type === 'string' ? node.type : 'part', node.props, plain(node.children)]
        : node;
  const seen = (of: Column, row: (typeof rows)[number]) =>
    JSON.stringify([plain(kindOf(row).draw(of, row)), kindOf(row).speak(of, row)]);

  it('sees all that it is drawn and spoken from: what it sees is the same only where it looks and sounds the same', () => {
    let differed = 0;
    fc.assert(
      fc.property(two, ([a, b]) => {
        for (const row of rows) {
          if (seen(a, row) === seen(b, row)) continue;
          differed++;
          const [x, y] = [kindOf(row).sees(a, row), kindOf(row).sees(b, row)];
          // The name is seen by every cell (StripColumn).
          const same = x.length === y.length && x.every((v, i) => Object.is(v, y[i]));
          expect(same && a.name === b.name, `${row.key}`).toBe(false);
        }
      }),
      { numRuns: 3000 },
    );
    expect(differed).toBeGreaterThan(300);
  });
});
