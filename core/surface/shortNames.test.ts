import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { shorten, shortNames } from './shortNames';

describe('short names', () => {
  it('fit, are distinct in what is shown together, and hold signs that every display has', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ minLength: 1, maxLength: 24, unit: 'grapheme' }), {
          minLength: 1,
          maxLength: 32,
        }),
        fc.integer({ min: 4, max: 12 }),
        (names, length) => {
          const full = names.map((n) => n.trim() || 'x');
          const short = shortNames(full, length);
          for (const s of short) {
            expect(s.length).toBeLessThanOrEqual(length);
            expect(s).toMatch(/^[\x20-\x7e]*$/);
          }
          const shown = short.filter((s) => s !== '');
          expect(new Set(shown).size).toBe(shown.length);
        },
      ),
    );
  });
  it('of the demo are told apart in seven characters without numbers, in every bank of eight', () => {
    const names = demoSession().strips.map((s) => s.name);
    for (let at = 0; at < names.length; at += 8) {
      const bank = names.slice(at, at + 8);
      expect(shortNames(bank, 7)).toEqual(bank.map((n) => shorten(n, 7)));
    }
  });
  it.each([
    ['Bell', 'Bell'],
    ['Bass DI', 'Bass DI'],
    ['Choir soprano', 'ChoSopr'],
    ['Choir alto', 'ChoAlto'],
    ['Crew shouts 1', 'CreSho1'],
    ['Flöte', 'Flote'],
    ['Concertina L', 'ConcerL'],
  ])('%s becomes %s', (name, short) => expect(shorten(name, 7)).toBe(short));
});
