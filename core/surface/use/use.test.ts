import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newSession, newStrip } from '../../session/defaults';
import { deskHost } from '../../testing/deskHost';
import { simulatedFaders } from '../stands/motorFaders';
import { costOf, type Arrangement } from './cost';
import { propose } from './proposal';
import { usesOf, type Use } from './uses';

const ids = (n: number) => Array.from({ length: n }, (_, i) => `s${i + 1}`);
const uses = (...strips: string[]): readonly Use[] => strips.map((strip, at) => ({ strip, at }));
const plain = (n: number, more: Partial<Arrangement> = {}): Arrangement => ({
  width: 8,
  left: [],
  right: [],
  order: ids(n),
  all: ids(n),
  bankBy: 'width',
  ...more,
});

describe('uses', () => {
  it('are what a hand would have moved; several times in a row is once, and an edit of many is none', () => {
    const set = (id: string) => ({ type: 'strip.set', id, patch: { faderDb: -3 } }) as const;
    const found = usesOf(
      [
        { at: 1, commands: [set('a')] },
        { at: 2, commands: [set('a')] },
        { at: 4, commands: [{ type: 'send.set', strip: 'b', id: 'x', patch: { levelDb: 0 } }] },
        { at: 5, commands: ids(9).map(set) },
        { at: 6, commands: [{ type: 'session.set', patch: { name: 'x' } }] },
      ],
      [{ strip: 'c', at: 3 }],
    );
    expect(found.map((u) => u.strip)).toEqual(['a', 'c', 'b']);
  });
});

describe('what it costs', () => {
  // Counted by hand: banks of eight over 24 strips (common practice, no published source).
  it.each([
    [['s1', 's8'], 0],
    [['s9'], 1],
    [['s17'], 2 - 1],
    [['s9', 's1'], 2],
    [['s9', 's10', 's16'], 1],
    [['s24', 's1', 's24'], 3],
  ])('%j over 24 strips takes %i presses', (strips, presses) => {
    // The last bank of three is one press away too: the key that jumps to it.
    expect(costOf(uses(...strips), plain(24)).presses).toBe(presses);
  });
  it('nothing for what is pinned, and pins leave a smaller window', () => {
    const pinned = plain(24, { left: ['s24'], right: ['s20'] });
    expect(costOf(uses('s24', 's20', 's24'), pinned).presses).toBe(0);
    expect(costOf(uses('s7'), pinned).presses).toBe(1);
  });
  it('a reach there and back for what lies in no place of the order', () => {
    expect(costOf(uses('s12'), plain(24, { order: ids(4) })).presses).toBe(2 + 1);
    expect(costOf(uses('gone'), plain(24)).presses).toBe(0);
  });

  it('is what the keys of a desk really take: no way of fewer presses leads there', () => {
    const base = newSession('Many');
    const session = {
      ...base,
      strips: [
        ...ids(30).map((id) => newStrip({ id, kind: 'source', name: id, out: { to: 'main', on: true } })),
        ...base.strips,
      ],
    };
    const order = [...ids(30), 'main'];
    const KEYS = ['bankLeft', 'bankRight', 'nudgeLeft', 'nudgeRight', 'toFirst', 'toLast'] as const;
    // Every window that each number of presses can reach, found on the desk itself.
    const reached = new Map<string, number>([]);
    let edge: (readonly (typeof KEYS)[number][])[] = [[]];
    const seen = new Set<string>();
    for (let presses = 0; presses <= 3; presses++) {
      const next: (typeof edge)[number][] = [];
      for (const path of edge) {
        const h = deskHost(session, [simulatedFaders]);
        for (const k of path) h.push(k);
        const key = h.slots().join();
        if (seen.has(key)) continue;
        seen.add(key);
        for (const id of h.slots()) if (id !== null && !reached.has(id)) reached.set(id, presses);
        for (const k of KEYS) next.push([...path, k]);
      }
      edge = next;
    }
    expect(reached.size).toBe(31);
    for (const [id, presses] of reached)
      expect(costOf(uses(id), plain(0, { order, all: order })).presses, id).toBe(presses);
  });
});

describe('a proposal', () => {
  it('pins what is reached for all the time, and lays together what goes together', () => {
    const often = Array.from({ length: 40 }, (_, i) => ['s30', i % 2 ? 's12' : 's25', 's30', 's3']).flat();
    const found = propose(uses(...often), plain(32));
    expect(found.today.presses).toBeGreaterThan(60);
    expect(found.cost.presses).toBeLessThanOrEqual(2);
    expect([...found.arrangement.left, ...found.arrangement.order].slice(0, 8)).toEqual(
      expect.arrayContaining(['s30', 's3', 's12', 's25']),
    );
  });
  it('is never worse than today, whatever was done, and loses no strip', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 40 }), { maxLength: 120 }),
        fc.integer({ min: 1, max: 24 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 40 }), { maxLength: 3 }),
        fc.constantFrom('width' as const, 'eight' as const),
        (strips, width, pins, bankBy) => {
          const left = pins.slice(0, Math.max(0, width - 1)).map((n) => `s${n}`);
          const today = plain(40, { width, left, bankBy });
          const found = propose(uses(...strips.map((n) => `s${n}`)), today);
          expect(found.cost.presses).toBeLessThanOrEqual(found.today.presses);
          expect(found.cost.presses).toBe(
            costOf(uses(...strips.map((n) => `s${n}`)), found.arrangement).presses,
          );
          const there = new Set([
            ...found.arrangement.left,
            ...found.arrangement.right,
            ...found.arrangement.order,
          ]);
          expect(there.size).toBe(40);
          expect(found.arrangement.left).toEqual(expect.arrayContaining([...left]));
        },
      ),
      { numRuns: 120 },
    );
  });
  it('is today, where nothing costs anything', () => {
    const today = plain(8);
    expect(propose(uses('s1', 's5'), today).arrangement).toBe(today);
    expect(propose([], plain(100)).arrangement.order).toEqual(ids(100));
  });
});
