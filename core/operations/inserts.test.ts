import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { newPreamp } from '../devices/preamp';
import { processors } from '../processors/registry';
import { apply } from '../edits/apply';
import { newInsert, newSession, newStrip } from '../session/defaults';
import { checkSession } from '../edits/invariants';
import { stripOf } from '../session/lookup';
import type { Session, Strip } from '../session/types';
import { activeInserts, addInserts, placeInsert, resetInsert, resetStrips, switchInserts } from './inserts';

const chain = (strip: Strip) => strip.inserts.map((i) => `${i.place}:${i.id}`).join(' ');
const after = (s: Session, commands: Parameters<typeof apply>[1]) => {
  const next = apply(s, commands).session;
  checkSession(next);
  return next;
};
const base = newSession('Chain');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      channels: 2,
      out: { to: 'main', on: true },
      inserts: [
        newInsert({ id: 'e', type: 'equalizer' }),
        newInsert({ id: 'c', type: 'compressor', key: 'k' }),
        newInsert({ id: 'd', type: 'delay', place: 'post' }),
      ],
    }),
    newStrip({ id: 'm', kind: 'source', name: 'Mono', out: { to: 'main', on: true } }),
    newStrip({ id: 'k', kind: 'source', name: 'Key', out: { to: 'main', on: false } }),
    ...base.strips,
  ],
};

describe('a place in the chain', () => {
  const place = (id: string, to: { strip?: string; place: 'pre' | 'post'; at: number }, copy = false) =>
    after(session, placeInsert(session, { strip: 'a', id }, { strip: 'a', ...to }, copy).commands);

  it.each([
    ['e', 'pre', 2, 'pre:c pre:e post:d'],
    ['c', 'pre', 0, 'pre:c pre:e post:d'],
    ['e', 'post', 0, 'pre:c post:e post:d'],
    ['e', 'post', 1, 'pre:c post:d post:e'],
    ['d', 'pre', 1, 'pre:e pre:d pre:c'],
    ['d', 'pre', 0, 'pre:d pre:e pre:c'],
  ] as const)('%s goes to %s %s: %s', (id, side, at, wanted) =>
    expect(chain(stripOf(place(id, { place: side, at }), 'a'))).toBe(wanted),
  );

  it('where it stands already makes no edit', () => {
    for (const at of [0, 1])
      expect(
        placeInsert(session, { strip: 'a', id: 'e' }, { strip: 'a', place: 'pre', at }).commands,
      ).toEqual([]);
  });

  it('on another strip moves the insert with its settings and its key; a copy leaves it', () => {
    const moved = place('c', { strip: 'm', place: 'pre', at: 0 });
    expect(chain(stripOf(moved, 'a'))).toBe('pre:e post:d');
    expect(stripOf(moved, 'm').inserts[0]).toMatchObject({ type: 'compressor', key: 'k' });
    const copied = place('c', { strip: 'm', place: 'post', at: 0 }, true);
    expect(chain(stripOf(copied, 'a'))).toBe(chain(stripOf(session, 'a')));
    expect(stripOf(copied, 'm').inserts[0]).toMatchObject({ type: 'compressor', place: 'post', key: 'k' });
    expect(stripOf(copied, 'm').inserts[0]!.id).not.toBe('c');
  });

  it('on the strip that keyed it lets it hear its own signal', () =>
    expect(stripOf(place('c', { strip: 'k', place: 'pre', at: 0 }), 'k').inserts[0]!.key).toBeNull());

  it('is refused where a mono strip would get a processor for two channels', () => {
    const stereo = after(session, addInserts(session, ['a'], 'stereo', 'pre'));
    const id = stripOf(stereo, 'a').inserts.find((i) => i.type === 'stereo')!.id;
    expect(() => placeInsert(stereo, { strip: 'a', id }, { strip: 'm', place: 'pre', at: 0 })).toThrow(
      /Stereo tool needs two channels.*Mono/,
    );
  });

  it('undone is as before, wherever it went', () => {
    const demo = demoSession();
    const withInserts = demo.strips.filter((s) => s.inserts.length);
    fc.assert(
      fc.property(
        fc.constantFrom(...withInserts),
        fc.nat(3),
        fc.constantFrom(...demo.strips.filter((s) => s.channels === 2)),
        fc.constantFrom('pre' as const, 'post' as const),
        fc.nat(4),
        fc.boolean(),
        (from, n, to, side, at, copy) => {
          const insert = from.inserts[n % from.inserts.length]!;
          const { commands } = placeInsert(
            demo,
            { strip: from.id, id: insert.id },
            { strip: to.id, place: side, at },
            copy,
          );
          let done;
          try {
            done = apply(demo, commands);
          } catch (error) {
            // A key that would hear itself is refused.
            expect(String(error)).toMatch(/feed itself/);
            return;
          }
          expect(apply(done.session, done.inverse).session).toEqual(demo);
          const count = (s: Session) => s.strips.reduce((sum, x) => sum + x.inserts.length, 0);
          expect(count(done.session)).toBe(count(demo) + (copy ? 1 : 0));
          const there = stripOf(done.session, to.id).inserts.find((i) => i.type === insert.type);
          expect(there).toBeDefined();
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('a preamplifier’s input', () => {
  const ask = (id: string, input: number) =>
    ({ type: 'strip.set', id, patch: { preamp: newPreamp(input) } }) as const;
  it('is one source’s alone, and comes to no bus', () => {
    const one = after(session, [ask('a', 3)]);
    expect(() => apply(one, [ask('m', 3)])).toThrow(/Input 3 of the preamplifier is taken by `A`/);
    expect(() => apply(session, [ask('main', 1)])).toThrow(/only sources/);
    expect(stripOf(after(one, [ask('m', 4)]), 'm').preamp!.input).toBe(4);
  });
});

describe('inserts of many strips', () => {
  it('are added to each at the end of their side, an effect part wet but on a return', () => {
    const demo = demoSession();
    const next = after(demo, addInserts(demo, ['fiddle-close', 'plate'], 'reverb', 'pre'));
    expect(stripOf(next, 'fiddle-close').inserts.at(-1)).toMatchObject({ type: 'reverb', mix: 0.3 });
    expect(stripOf(next, 'plate').inserts.at(-1)).toMatchObject({ type: 'reverb', mix: 1 });
  });

  it('of every kind are known by the format', () => {
    for (const p of processors) after(session, addInserts(session, ['a'], p.type, 'pre'));
  });

  it('are bypassed by strip and by kind, and exactly those come back', () => {
    const off = after(session, [{ type: 'insert.set', strip: 'a', id: 'e', patch: { on: false } }]);
    const active = activeInserts(off, ['a']);
    expect(active.map((r) => r.id)).toEqual(['c', 'd']);
    const silent = after(off, switchInserts(off, active, false));
    expect(activeInserts(silent, null)).toEqual([]);
    expect(after(silent, switchInserts(silent, active, true))).toEqual(off);
    expect(activeInserts(session, null, 'delay')).toEqual([{ strip: 'a', id: 'd' }]);
  });

  it('return to their defaults, and a strip as a whole too', () => {
    const set = after(session, [
      { type: 'insert.set', strip: 'a', id: 'e', patch: { params: { bell1Gain: 6 }, mix: 0.5 } },
      { type: 'strip.set', id: 'a', patch: { faderDb: -9, pan: 0.4, trimDb: 3, width: 0.5 } },
    ]);
    expect(stripOf(after(set, resetInsert(set, { strip: 'a', id: 'e' })), 'a').inserts[0]).toMatchObject({
      params: {},
      mix: 1,
    });
    const clean = stripOf(after(set, resetStrips(set, ['a'])), 'a');
    expect(clean).toMatchObject({ faderDb: 0, pan: 0, trimDb: 0, width: 1, inserts: [], name: 'A' });
  });
});
