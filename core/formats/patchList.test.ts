import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { newInsert, newSend, newSession, newStrip } from '../session/defaults';
import type { Session } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { demoSession } from '../../demo/session';
import { PATCH_COLUMNS, readPatchList, writePatchList } from './patchList';

const base = newSession('Patch');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'Fiddle, "close" | L',
      family: 'Strings',
      out: { to: 'main', on: true },
      sends: [newSend({ id: 'x', to: 'plate', levelDb: -12, tap: 'pre', pan: -0.3, on: false })],
    }),
    newStrip({ id: 'b', kind: 'source', name: 'Harp', out: { to: 'main', on: false } }),
    newStrip({
      id: 'plate',
      kind: 'return',
      name: 'Plate',
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'r', type: 'reverb', on: false })],
    }),
    ...base.strips,
  ],
};

describe('the patch list', () => {
  it('is CSV as RFC 4180 has it: CRLF, fields with commas, quotes and line breaks quoted, quotes doubled', () => {
    const text = writePatchList(session);
    expect(text.startsWith(`${PATCH_COLUMNS.join(',')}\r\n`)).toBe(true);
    expect(text.endsWith('\r\n')).toBe(true);
    expect(text).toContain('"Fiddle, ""close"" | L"');
    // csv-parse, an independent reader, in its strict default.
    const rows = parse(text, { columns: true, relax_column_count: false }) as Record<string, string>[];
    expect(rows.map((r) => r['strip'])).toEqual(['Fiddle, "close" | L', 'Harp', 'Plate', 'Main']);
    expect(rows[0]!['sends']).toBe('Plate | pre | -12.00 dB | L30 | off');
    expect(rows[1]!['dry path']).toBe('off');
    expect(rows[2]!['inserts']).toBe('Reverb, before the fader, bypassed');
  });

  it('read back into the session that it is of changes nothing', () => {
    for (const s of [session, demoSession()])
      expect(readPatchList(s, writePatchList(s))).toEqual({
        commands: [],
        problems: [],
        matched: s.strips.length,
      });
    fc.assert(
      fc.property(sessions(10), (s) => {
        const read = readPatchList(s, writePatchList(s));
        expect(read.problems).toEqual([]);
        expect(read.commands).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('read into a session whose outs and sends were taken away brings them back, by name', () => {
    fc.assert(
      fc.property(sessions(10), (s) => {
        const bare: Session = {
          ...s,
          strips: s.strips.map((t) => ({
            ...t,
            sends: [],
            out: t.kind === 'output' ? t.out : { to: 'main', on: true },
          })),
        };
        const back = apply(bare, readPatchList(bare, writePatchList(s)).commands).session;
        const wiring = (x: Session) =>
          x.strips.map((t) => [
            t.out,
            t.sends.map(({ to, tap, levelDb, pan, on }) => ({ to, tap, levelDb, pan, on })),
          ]);
        expect(wiring(back)).toEqual(wiring(s));
      }),
      { numRuns: 60 },
    );
  });

  it('takes what a spreadsheet makes of it: a byte order mark, line feeds, other columns, rows left out', () => {
    const text = `\uFEFFStrip,Notes,Sends,Out\nharp,loud,Plate | post | -6 dB,Plate\n\n`;
    const read = readPatchList(session, text);
    expect(read.problems).toEqual([]);
    expect(read.matched).toBe(1);
    const after = apply(session, read.commands).session.strips.find((s) => s.id === 'b')!;
    expect(after.out).toEqual({ to: 'plate', on: false });
    expect(after.sends).toMatchObject([{ to: 'plate', tap: 'post', levelDb: -6, pan: 0, on: true }]);
  });

  it('says by row what it cannot take, and takes the rest', () => {
    const text = [
      'strip,sends,out',
      'Ghost,,Main',
      '"Fiddle, ""close"" | L",Plate at -3,Nowhere',
      'Harp,Plate | post | 40.00 dB,Harp',
      'Plate,,',
    ].join('\r\n');
    const read = readPatchList(session, text);
    expect(read.problems).toEqual([
      'Row 2: there is no strip “Ghost”.',
      'Row 3: there is no strip “Nowhere”.',
      'Row 3: “Plate at -3” is no send. Write it as: Plate | post | -12.00 dB',
      'Row 4: Harp takes no signal of Harp.',
      'Row 4: “Plate | post | 40.00 dB” is no send. Write it as: Plate | post | -12.00 dB',
    ]);
    // The send that was not understood stays; the return is led nowhere, as its row says.
    expect(read.commands).toEqual([{ type: 'strip.out', id: 'plate', out: { to: null, on: true } }]);
    const twins = {
      ...session,
      strips: session.strips.map((s) => ({ ...s, name: s.kind === 'source' ? 'Twin' : s.name })),
    };
    expect(readPatchList(twins, 'strip,out\nTwin,Main\n').problems[0]).toMatch(/2 strips are called/);
  });

  it('refuses what is no table of strips', () => {
    expect(() => readPatchList(session, 'hello')).toThrow('no column `strip`');
    expect(() => readPatchList(session, '')).toThrow('no column `strip`');
  });
});
