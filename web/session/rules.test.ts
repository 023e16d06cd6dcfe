import { describe, expect, it } from 'vitest';
import { bpm, keeps, name, sessionName } from './rules';

describe('rules of fields', () => {
  it('are those by which the server judges', () => {
    expect(sessionName[0]!('Lantern Tide')).toBe(true);
    expect(sessionName[0]!('  ')).toBe('The name is not allowed to be empty.');
    expect(sessionName[0]!('x'.repeat(201))).toMatch(/^The name length must be less than or equal to 200/);
    expect(sessionName[0]!('a\u0000b')).toBe('The name holds a character that cannot be kept.');
    // A strip may be without a name.
    expect(name[0]!('')).toBe(true);
    expect(keeps(bpm, 96)).toBe(true);
    expect(keeps(bpm, 9)).toBe(false);
    expect(keeps(bpm, Number.NaN)).toBe(false);
  });
});
