import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isPattern, partMatcher } from './pattern';

const matches = (pattern: string, name: string) => partMatcher(pattern)!(name);

describe('address patterns of OSC 1.0', () => {
  // "The Open Sound Control 1.0 Specification", "OSC Message Dispatching and Pattern Matching", rules 1 to 5.
  it.each<[string, string, boolean]>([
    ['?', 'a', true],
    ['?', '', false],
    ['?', 'ab', false],
    ['*', '', true],
    ['*', 'anything', true],
    ['a*c', 'abbbc', true],
    ['a*c', 'ac', true],
    ['a*c', 'acb', false],
    ['[abc]x', 'bx', true],
    ['[abc]x', 'dx', false],
    ['[a-z]', 'q', true],
    ['[a-z]', 'Q', false],
    // A list that begins with an exclamation point matches what is not in it.
    ['[!a-c]', 'd', true],
    ['[!a-c]', 'b', false],
    // A minus sign at the end, and an exclamation point elsewhere, have no special meaning.
    ['[a-]', '-', true],
    ['[a-]', 'b', false],
    ['[a!]', '!', true],
    ['{foo,bar}', 'foo', true],
    ['{foo,bar}', 'bar', true],
    ['{foo,bar}', 'foobar', false],
    ['{fo,foo}bar', 'foobar', true],
    ['{,not_}this', 'this', true],
    ['level', 'level', true],
    ['level', 'Level', false],
    ['level', 'levels', false],
  ])('%s against %s', (pattern, name, expected) => {
    expect(matches(pattern, name)).toBe(expected);
  });
  it('with a bracket that is open are none', () => {
    for (const bad of ['[abc', '{a,b', 'a]', 'a}', '[!', '{']) expect(partMatcher(bad)).toBeNull();
  });
  it('agree with a regular expression of the same meaning', () => {
    const char = fc.constantFrom('a', 'b', 'c', '_');
    const piece = fc.oneof(
      char.map((c) => [c, c]),
      fc.constant(['?', '.']),
      fc.constant(['*', '.*']),
      fc.array(char, { minLength: 1, maxLength: 3 }).map((cs) => [`[${cs.join('')}]`, `[${cs.join('')}]`]),
      fc.array(char, { minLength: 1, maxLength: 3 }).map((cs) => [`[!${cs.join('')}]`, `[^${cs.join('')}]`]),
      fc
        .array(
          fc.array(char, { minLength: 1, maxLength: 3 }).map((c) => c.join('')),
          { minLength: 1, maxLength: 3 },
        )
        .map((t) => [`{${t.join(',')}}`, `(?:${t.join('|')})`]),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 6 }), fc.array(char, { maxLength: 8 }), (pieces, name) => {
        const regular = new RegExp(`^${pieces.map((p) => p[1]).join('')}$`);
        expect(matches(pieces.map((p) => p[0]).join(''), name.join(''))).toBe(regular.test(name.join('')));
      }),
      { numRuns: 500 },
    );
  });
  it('take no longer where somebody means harm: a hundred stars against a long name are a few thousand steps', () => {
    const begun = performance.now();
    for (let i = 0; i < 20; i++) expect(matches(`${'*a'.repeat(100)}b`, 'a'.repeat(200))).toBe(false);
    // With a search that tries all ways this would not end.
    expect(performance.now() - begun).toBeLessThan(10_000);
  });
  it('are told from names', () => {
    expect(['level', 'Lead_voice', '3', 'a-b', 'a!'].some(isPattern)).toBe(false);
    expect(['*', 'a?', '[a]', '{a}', 'a]'].every(isPattern)).toBe(true);
  });
});
