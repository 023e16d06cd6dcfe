import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { travelOf } from '../levels/faderLaw';
import { deskHost } from '../testing/deskHost';
import { pickedUp } from './pickup';
import type { SurfaceProfile } from './profile/profile';
import { validProfile } from './profile/validProfile';

const demo = demoSession();
/** Two faders without motors, by seven bits, and a display each. */
const plain = (pickup: string): SurfaceProfile =>
  validProfile({
    format: 'zonula-surface',
    version: 2,
    id: 'plain',
    name: 'Plain faders',
    width: 2,
    pickup,
    controls: [
      ...[0, 1].map((k) => ({
        id: `f${k}`,
        kind: 'fader',
        position: k,
        in: { type: 'control', channel: 1, controller: 10 + k },
      })),
      {
        id: 'knob',
        kind: 'encoder',
        position: 0,
        coding: 'position',
        in: { type: 'control', channel: 1, controller: 30 },
      },
      ...[0, 1].map((k) => ({
        id: `v${k}`,
        kind: 'display',
        position: k,
        shows: 'value',
        characters: 7,
        prefix: [125, 1],
      })),
      { id: 'right', kind: 'key', role: 'bankRight', in: { type: 'note', channel: 1, note: 1 } },
      { id: 'left', kind: 'key', role: 'bankLeft', in: { type: 'note', channel: 1, note: 2 } },
    ],
  });
const at = (db: number) => Math.round(travelOf(db) * 16383);
const travel = fc.double({ min: 0, max: 1, noNaN: true });

describe('a fader without a motor', () => {
  it('catch: nothing moves until it passes the value; the display says which way to go', () => {
    const h = deskHost(demo, [plain('catch')]);
    const level = () => h.session.strips[0]!.faderDb!;
    h.move(0, at(-40));
    expect(h.display('value', 0)).toBe('go up');
    h.move(0, at(-20));
    expect(level()).toBe(-6);
    h.move(0, at(-5.5));
    expect(level()).toBeGreaterThan(-6.2);
    expect(level()).toBeLessThan(-4.8);
    h.move(0, at(-30));
    expect(level()).toBeCloseTo(-30, 0);
    h.wait(1500);
    expect(h.display('value', 0)).not.toMatch(/^go/);
  });
  it('catch: whatever moved the value meanwhile, it has to be caught anew', () => {
    const h = deskHost(demo, [plain('catch')]);
    h.move(0, at(-40));
    h.move(0, at(3));
    expect(h.session.strips[0]!.faderDb).toBeCloseTo(3, 0);
    h.settle();
    h.edit(apply(h.session, [{ type: 'strip.set', id: 'skin', patch: { faderDb: -20 } }]).session);
    h.move(0, at(2));
    expect(h.session.strips[0]!.faderDb).toBe(-20);
    // Another bank came under it, and this one came back.
    h.push('bankRight');
    h.move(0, at(-30));
    h.push('bankLeft');
    h.move(0, at(-35));
    expect(h.session.strips[0]!.faderDb).toBe(-20);
  });
  it('scale: moves in proportion until they meet at the end', () => {
    const h = deskHost(demo, [plain('scale')]);
    const of = () => travelOf(h.session.strips[0]!.faderDb);
    h.move(0, at(-40));
    const first = of();
    expect(first).toBeCloseTo(travelOf(-6), 9);
    h.move(0, 8192);
    expect(of()).toBeGreaterThan(first);
    expect(of()).toBeLessThan(1);
    h.move(0, 16383);
    expect(of()).toBeCloseTo(1, 3);
  });
  it('jump: goes there at once', () => {
    const h = deskHost(demo, [plain('jump')]);
    h.move(0, at(-30));
    expect(h.session.strips[0]!.faderDb).toBeCloseTo(-30, 0);
  });
  it('is set a unit, over what its profile says', () => {
    const h = deskHost(demo, [plain('jump')]);
    h.setDesk({ units: [{ ...h.desk.units[0]!, pickup: 'catch' }] });
    h.move(0, at(-30));
    expect(h.session.strips[0]!.faderDb).toBe(-6);
  });
  it('a knob with ends takes hold in the same way', () => {
    const h = deskHost(demo, [plain('catch')]);
    const knob = (v: number) => h.hear([0xb0, 30, v]);
    knob(127);
    expect(h.session.strips[0]!.pan).toBe(0);
    knob(20);
    expect(h.session.strips[0]!.pan).toBeLessThan(-0.5);
  });
});

describe('with catch, and with scale', () => {
  it('catch: no value moves by more than the hand moved, whatever else happened before', () =>
    fc.assert(
      fc.property(
        fc.option(travel, { nil: null }),
        travel,
        travel,
        fc.option(travel, { nil: null }),
        (from, to, value, caught) => {
          const t = pickedUp('catch', from, to, value, caught);
          if (t.to === null) return;
          // What it holds already it moves as far as it moved itself, give or take the step that is taken for the same.
          const hand = Math.abs(
            to - (caught !== null && Math.abs(caught - value) <= 3 / 16383 ? value : from!),
          );
          expect(Math.abs(t.to - value)).toBeLessThanOrEqual(hand + 1e-9);
        },
      ),
    ));
  it('catch on a desk: over any moves, banks and edits, no level jumps further than its hand went', () => {
    const step = fc.oneof(
      {
        weight: 6,
        arbitrary: fc.tuple(
          fc.constant('move' as const),
          fc.integer({ min: 0, max: 1 }),
          fc.integer({ min: 0, max: 127 }),
        ),
      },
      {
        weight: 1,
        arbitrary: fc.tuple(fc.constant('bank' as const), fc.constantFrom(-1, 1), fc.constant(0)),
      },
      {
        weight: 1,
        arbitrary: fc.tuple(
          fc.constant('edit' as const),
          fc.integer({ min: 0, max: 7 }),
          fc.integer({ min: -40, max: 12 }),
        ),
      },
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
        const h = deskHost(demo, [plain('catch')]);
        const stood: (number | null)[] = [null, null];
        for (const [what, a, b] of steps) {
          if (what === 'bank') h.push(a < 0 ? 'bankLeft' : 'bankRight');
          else if (what === 'edit')
            h.edit(
              apply(h.session, [{ type: 'strip.set', id: h.session.strips[a]!.id, patch: { faderDb: b } }])
                .session,
            );
          else {
            const value = Math.round((b / 127) * 16383);
            const before = h.session;
            h.move(a, value);
            const hand = stood[a] === null ? 0 : Math.abs(value - stood[a]!) / 16383;
            stood[a] = value;
            for (const list of ['strips', 'vcas'] as const)
              h.session[list].forEach((s, i) => {
                const moved = Math.abs(travelOf(s.faderDb) - travelOf(before[list][i]!.faderDb));
                // A hundredth of a decibel of rounding, at the steepest part of the way.
                expect(moved).toBeLessThanOrEqual(hand + 0.0006);
              });
          }
        }
      }),
      { numRuns: 150 },
    );
  }, 60_000);
  it('scale: goes the way of the hand, stays within the ends, and meets the hand there', () =>
    fc.assert(
      fc.property(travel, travel, travel, (from, to, value) => {
        const t = pickedUp('scale', from, to, value, null);
        if (t.to === null) return;
        expect(t.to).toBeGreaterThanOrEqual(-1e-9);
        expect(t.to).toBeLessThanOrEqual(1 + 1e-9);
        if (!t.caught) expect(Math.sign(t.to - value) * Math.sign(to - from)).toBeGreaterThanOrEqual(0);
      }),
    ));
});
