import { describe, expect, it } from 'vitest';
import { bpm, broken, keeps, name, sessionName } from './rules';

describe('rules of fields', () => {
  it('are those by which the server judges', async () => {
    expect(await broken(sessionName, 'Lantern Tide')).toBeNull();
    expect(await broken(sessionName, '  ')).toBe('The name is not allowed to be empty.');
    expect(await broken(sessionName, 'x'.repeat(201))).toMatch(
      /^The name length must be less than or equal to 200/,
    );
    expect(await broken(sessionName, 'a\u0000b')).toBe('The name holds a character that cannot be kept.');
    // A strip may be without a name.
    expect(await broken(name, '')).toBeNull();
    expect(await keeps(bpm, 96)).toBe(true);
    expect(await keeps(bpm, 9)).toBe(false);
    expect(await keeps(bpm, Number.NaN)).toBe(false);
  });
});
