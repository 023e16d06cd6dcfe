import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { EXAMPLE } from '../formats/oscPage';
import { sessions } from '../testing/arbitraries';
import { deskOrder } from '../surface/faded';
import type { Session } from '../session/types';
import type { OscArgument } from '../wire/osc';
import type { OscWorld } from './address';
import { oscName, oscNames } from './names';
import { MOST_MEANT, oscFind, oscRoot } from './tree';

const worldOf = (session: Session, bank = { first: 0, size: 8 }): OscWorld => ({ ...EXAMPLE, session, bank });
const find = (session: Session, address: string) => oscFind(oscRoot(worldOf(session)), address);
const tell = (session: Session, address: string) => find(session, address)[0]?.tell?.();
/** The session after messages, one on the other. */
const after = (session: Session, address: string, ...args: OscArgument[]): Session =>
  find(session, address).reduce((s, leaf) => {
    const done = leaf.take!(args);
    return done?.type === 'edit' ? apply(s, done.commands).session : s;
  }, session);
const lead = (s: Session) => s.strips[0]!;
const { session: demo } = EXAMPLE;

describe('names in addresses', () => {
  // Characters that names must not hold: OSC 1.0, table "Printable ASCII characters not allowed in names".
  it('hold none of the characters that mean something in an address', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 30 }), (name) => {
        expect(oscName(name)).toMatch(/^[\x21-\x7e]+$/);
        expect(oscName(name)).not.toMatch(/[ #*,/?[\]{}]|^\d+$/);
      }),
    );
  });
  it.each([
    ['Lead voice', 'Lead_voice'],
    ['Kick / in', 'Kick_in'],
    ['Bühne', 'Buhne'],
    ['12', '_12'],
    ['', '_'],
    ['  ', '_'],
  ])('of %j are %j', (name, expected) => expect(oscName(name)).toBe(expected));
  it('are each one thing’s own', () => {
    expect(oscNames(['Tom', 'Tom', 'Tom_2', 'Tom'])).toEqual(['Tom', 'Tom_2', 'Tom_2_2', 'Tom_3']);
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'a_2', 'A', 'a 2', 'ä'), { maxLength: 12 }), (names) => {
        expect(new Set(oscNames(names)).size).toBe(names.length);
      }),
    );
  });
});

describe('an address', () => {
  it('means the same by number and by name', () => {
    for (const at of ['/strip/1/level', '/strip/Lead_voice/level'])
      expect(lead(after(demo, at, -6)).faderDb).toBe(-6);
    expect(find(demo, '/strip/Lead_voice/send/Echo/level')[0]!.address).toBe(
      '/strip/Lead_voice/send/Echo/level',
    );
    expect(lead(after(demo, '/strip/Lead_voice/send/Echo/level', -12)).sends[0]!.levelDb).toBe(-12);
    expect(lead(after(demo, '/strip/1/insert/compressor/threshold', -24)).inserts[0]!.params.threshold).toBe(
      -24,
    );
    expect(after(demo, '/vca/Voices/level', 2).vcas[0]!.faderDb).toBe(2);
  });
  it('is told what it was set to, as value, as a place on its way, and as text', () => {
    const moved = after(demo, '/strip/1/level', -6);
    expect(tell(moved, '/strip/1/level')).toBe(-6);
    expect(tell(moved, '/strip/1/level/text')).toBe('−6.0');
    const travel = tell(moved, '/strip/1/level/travel') as number;
    expect(lead(after(demo, '/strip/1/level/travel', travel)).faderDb).toBe(-6);
  });
  it('takes numbers, switches, texts and silence, brings numbers into range, and says what it takes', () => {
    expect(lead(after(demo, '/strip/1/level', Math.fround(-6.1))).faderDb).toBe(-6.1);
    expect(lead(after(demo, '/strip/1/level', null)).faderDb).toBeNull();
    expect(lead(after(demo, '/strip/1/level', -Infinity)).faderDb).toBeNull();
    expect(lead(after(demo, '/strip/1/level', 900)).faderDb).toBe(12);
    expect(lead(after(demo, '/strip/1/level', '-6 dB')).faderDb).toBe(-6);
    expect(lead(after(demo, '/strip/1/pan', -7)).pan).toBe(-1);
    for (const on of [true, 1, 0.5, 127]) expect(lead(after(demo, '/strip/1/mute', on)).mute).toBe(true);
    for (const off of [false, 0, 0.2]) expect(lead(after(demo, '/strip/1/mute', off)).mute).toBe(false);
    expect(lead(after(demo, '/strip/1/insert/1/detection', 1)).inserts[0]!.params.detection).toBe(1);
    const refused =
      (at: string, ...args: OscArgument[]) =>
      () =>
        after(demo, at, ...args);
    expect(refused('/strip/1/level', NaN)).toThrow(/takes a number, or a text such as/);
    expect(refused('/strip/1/level', true)).toThrow(/takes a number/);
    expect(refused('/strip/1/level', 'loud')).toThrow(/takes a number/);
    expect(refused('/strip/1/pan', null)).toThrow(/takes a number/);
    expect(refused('/strip/1/mute', null)).toThrow(/takes T, F or a number/);
    expect(refused('/strip/1/level/travel', 'up')).toThrow(/from 0 to 1/);
    expect(refused('/transport/locate', -1)).toThrow(/seconds/);
    expect(refused('/bank/size', 'x')).toThrow(/from 1 to 64/);
  });
  it('that nothing bears means nothing', () => {
    for (const at of [
      '/',
      '/strip',
      '/strip/0/level',
      '/strip/99/level',
      '/strip/1/levels',
      '/strip/Nobody/level',
      '/strip/1/level/travel/x',
      '/strip/__proto__/level',
      '/constructor',
      '/strip/1/toString',
      '/vca/1/pan',
    ])
      expect(find(demo, at).filter((l) => l.take ?? l.tell)).toEqual([]);
  });
  it('may be a pattern', () => {
    const muted = after(demo, '/strip/*/mute', true);
    expect(muted.strips.every((s) => s.mute)).toBe(true);
    expect(find(demo, '/{strip,vca}/1/{level,mute}').map((l) => l.address)).toEqual([
      '/strip/1/level',
      '/strip/1/mute',
      '/vca/1/level',
      '/vca/1/mute',
    ]);
    // Each thing once, though its name and its number both match.
    expect(find(demo, '/strip/*/name')).toHaveLength(demo.strips.length);
    expect(oscFind(oscRoot(worldOf(demo)), '/strip/*/name', { byName: true }).map((l) => l.address)[0]).toBe(
      '/strip/Lead_voice/name',
    );
    expect(() => find(demo, '/strip/[1/level')).toThrow(/bracket/);
    expect(() => find(demo, `/${'x'.repeat(500)}`)).toThrow(/400 characters/);
    const many: Session = {
      ...demo,
      strips: Array.from({ length: 600 }, (_, i) => ({ ...lead(demo), id: `s${i}`, name: `S ${i}` })),
    };
    expect(() => find(many, '/strip/*/*')).toThrow(new RegExp(`more than ${MOST_MEANT}`));
  });
  it('of the bank lies where the bank is, and moves with it', () => {
    fc.assert(
      fc.property(sessions(14), fc.integer({ min: 1, max: 6 }), fc.nat(20), (session, size, steps) => {
        const order = deskOrder(session);
        let world = worldOf(session, { first: 0, size });
        for (let n = 0; n < steps; n++) {
          const done = oscFind(oscRoot(world), '/bank/right')[0]!.take!([]);
          world = { ...world, bank: (done as { bank: OscWorld['bank'] }).bank };
        }
        expect(world.bank.first).toBeLessThan(Math.max(1, order.length));
        for (let i = 0; i < size; i++) {
          const id = order[world.bank.first + i];
          const thing = [...session.strips, ...session.vcas].find((x) => x.id === id);
          expect(oscFind(oscRoot(world), `/bank/${i + 1}/name`)[0]!.tell!()).toBe(
            thing ? thing.name || thing.id : '',
          );
        }
      }),
      { numRuns: 40 },
    );
  });
  it('of a key does nothing when it is let go', () => {
    const take = (...args: OscArgument[]) => find(demo, '/transport/play')[0]!.take!(args);
    expect([take(), take(true), take(1)]).toEqual(Array(3).fill({ type: 'play' }));
    expect([take(false), take(0)]).toEqual([null, null]);
  });
});
