import fc from 'fast-check';
import { expect, it } from 'vitest';
import { fitLine } from './fitName';

it('a name on one line keeps its last word, which tells neighbours apart', () => {
  expect(fitLine('Harbour organ 2', 15)).toBe('Harbour organ 2');
  expect(fitLine('Harbour organ 2', 14)).toBe('Harbo. organ 2');
  expect(fitLine('Harbour organ 3', 10)).toBe('Ha. org. 3');
  expect(fitLine('Rope and sail 5', 14)).toBe('Ro. and sail 5');
  expect(fitLine('Verylongwordnamehere', 14)).toBe('Verylongwordnamehere');
  expect([fitLine('', 5), fitLine('  ', 5)]).toEqual(['', '']);
  // A family is one letter of eleven code units.
  for (const name of ['👨‍👩‍👧‍👦 2', '👨‍👩‍👧‍👦family 👨‍👩‍👧‍👦 2', '🏴󠁧󠁢󠁳󠁣󠁴󠁿🏴󠁧󠁢󠁳󠁣󠁴󠁿 drum 2'])
    for (let most = 1; most < 40; most++) expect(fitLine(name, most).endsWith(' 2')).toBe(true);
  const any = fc.string({ unit: 'grapheme', maxLength: 40 });
  fc.assert(fc.property(any, fc.nat(40), (name, most) => typeof fitLine(name, most) === 'string'));
  const words = fc.array(fc.stringMatching(/^[a-zäé]{1,12}$/), { minLength: 1, maxLength: 5 });
  fc.assert(
    fc.property(words, fc.integer({ min: 3, max: 30 }), (all, most) => {
      const line = fitLine(all.join(' '), most);
      expect(line.split(' ')).toHaveLength(all.length);
      expect(line.split(' ').at(-1)).toBe(all.at(-1));
      if (line.length > most)
        expect(
          line
            .split(' ')
            .slice(0, -1)
            .every((w) => w.length <= 3),
        ).toBe(true);
    }),
  );
});
