import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tidyName } from '../naming/suggest';
import { isKeepable, keepable } from './text';

describe('text that can be kept', () => {
  it('has no U+0000 and no half of a surrogate pair', () => {
    expect(['a', '', '🎻', 'e\u0301', '\ud83c\udfbb'].map(isKeepable)).toEqual([
      true,
      true,
      true,
      true,
      true,
    ]);
    expect(['a\0', '\ud83c', '\udfbb', '🎻'.slice(0, 1)].map(isKeepable)).toEqual([
      false,
      false,
      false,
      false,
    ]);
  });
  // UAX 29, table 1b: a flag is two regional indicators, a family is joined by ZWJ, an accent belongs to its letter.
  it.each([
    ['x'.repeat(79) + '🎻', 80, 'x'.repeat(79)],
    ['ab👩‍👩‍👧‍👦', 12, 'ab'],
    ['ab👩‍👩‍👧‍👦', 13, 'ab👩‍👩‍👧‍👦'],
    ['🇩🇪🇫🇷', 5, '🇩🇪'],
    ['cafe\u0301', 4, 'caf'],
    ['a\0b\ud83cc', 10, 'abc'],
    ['', 3, ''],
  ])('%j is cut to %i between characters', (text, most, cut) => {
    expect(keepable(text, most)).toBe(cut);
  });
  it('of anything is a beginning of it that can be kept', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.string({ unit: 'binary' }), fc.string({ unit: 'grapheme' })),
        fc.nat(20),
        (text, most) => {
          const cut = keepable(text, most);
          expect(isKeepable(cut)).toBe(true);
          expect(cut.length).toBeLessThanOrEqual(most);
          if (isKeepable(text)) expect(text.startsWith(cut)).toBe(true);
          expect(keepable(cut, most)).toBe(cut);
        },
      ),
    );
  });
  it('is what a file name gives, wherever its letters are cut', () => {
    for (let n = 60; n < 90; n++) expect(isKeepable(tidyName(`${'x'.repeat(n)}🎻🎻🎻.wav`))).toBe(true);
  });
});
