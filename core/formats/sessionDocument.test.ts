import { readFileSync } from 'node:fs';
import Ajv2020 from 'ajv/dist/2020';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { Refusal } from '../base/refusal';
import { automatedSessions, sessions } from '../testing/arbitraries';
import { jsonSchema } from './jsonSchema';
import { readSessionDocument, validSession, writeSessionDocument } from './sessionDocument';
import { sessionSchema } from './sessionSchema';

const least = {
  format: 'zonula-session',
  version: 1,
  name: 'Least',
  sampleRate: 48000,
  strips: [{ id: 'main', kind: 'output' }],
};
const refusal = (change: object): Refusal => {
  try {
    validSession({ ...least, ...change });
  } catch (error) {
    return error as Refusal;
  }
  throw new Error('It was accepted.');
};

describe('session.json', () => {
  it('is read as it was written', () => {
    fc.assert(
      fc.property(
        fc.oneof(sessions(), automatedSessions()),
        (s) => void expect(readSessionDocument(writeSessionDocument(s))).toEqual(s),
      ),
      { numRuns: 60 },
    );
    expect(readSessionDocument(writeSessionDocument(demoSession()))).toEqual(demoSession());
  });

  it('fills in the defaults of the format', () => {
    const s = validSession({
      ...least,
      strips: [
        { id: 'a', kind: 'source' },
        { id: 'r', kind: 'return' },
        { id: 'main', kind: 'output' },
      ],
    });
    expect(s.panLaw).toBe(-3);
    expect(s.strips[0]).toMatchObject({
      channels: 1,
      faderDb: 0,
      pan: 0,
      width: 1,
      soloSafe: false,
      mute: false,
      trimDb: 0,
      sends: [],
      out: { to: null, on: true },
    });
    expect(s.strips[1]).toMatchObject({ channels: 2, soloSafe: true });
  });

  it.each<[string, object, string, RegExp]>([
    ['an unknown field', { tempo: { bpm: 100, swing: 0.6 } }, 'format', /tempo\.swing/],
    [
      'an unknown field of a strip',
      { strips: [{ id: 'main', kind: 'output', sparkle: 1 }] },
      'format',
      /strips\[0\]\.sparkle/,
    ],
    [
      'an unknown field of a send',
      { strips: [{ id: 'a', kind: 'source', sends: [{ id: 'x', to: 'main', colour: 1 }] }, ...least.strips] },
      'format',
      /strips\[0\]\.sends\[0\]\.colour/,
    ],
    ['a later version', { version: 2 }, 'version', /version 2.*up to version 1/s],
    ['another format', { format: 'something-else' }, 'format', /format/],
    [
      'a level above the top',
      { strips: [{ id: 'main', kind: 'output', faderDb: 13 }] },
      'format',
      /strips\[0\]\.faderDb/,
    ],
    [
      'a parameter out of range',
      {
        strips: [
          { id: 'main', kind: 'output', inserts: [{ id: 'r', type: 'reverb', params: { decay: 99 } }] },
        ],
      },
      'format',
      /strips\[0\]\.inserts\[0\]\.params\.decay.*less than or equal to 20/,
    ],
    ...(
      [
        [{ decay: 0 }, /params\.decay.*greater than or equal to/],
        [{ decay: 'long' }, /params\.decay.*must be a number/],
        [{ decay: null }, /params\.decay.*must be a number/],
        [{ swing: 1 }, /params\.swing.*is not allowed/],
        [[], /params.*must be of type object/],
      ] as const
    ).map(([params, text]): [string, object, string, RegExp] => [
      `parameters ${JSON.stringify(params)}`,
      { strips: [{ id: 'main', kind: 'output', inserts: [{ id: 'r', type: 'reverb', params }] }] },
      'format',
      text,
    ]),
    [
      'parameters of no processor',
      { strips: [{ id: 'main', kind: 'output', inserts: [{ id: 'r', type: 'echoes', params: { x: 1 } }] }] },
      'format',
      /strips\[0\]\.inserts\[0\]\.type/,
    ],
    [
      'a cycle',
      {
        strips: [
          { id: 'a', kind: 'submix', out: { to: 'b' } },
          { id: 'b', kind: 'submix', out: { to: 'a' } },
          ...least.strips,
        ],
      },
      'cycle',
      /a → b → a|b → a → b/,
    ],
    [
      'a dangling id',
      { strips: [{ id: 'a', kind: 'source', out: { to: 'ghost' } }, ...least.strips] },
      'dangling',
      /ghost/,
    ],
    ['two strips of one id', { strips: [...least.strips, ...least.strips] }, 'duplicate', /main/],
    ['a stem on a bus', { strips: [{ id: 'main', kind: 'output', stem: 'a.wav' }] }, 'kind', /stem/],
  ])('with %s is refused with its place', (_what, change, rule, text) => {
    const r = refusal(change);
    expect(r).toBeInstanceOf(Refusal);
    expect(r.rule).toBe(rule);
    expect(r.message).toMatch(text);
  });

  it('that is no JSON is refused', () => {
    expect(() => readSessionDocument('{')).toThrow(/not JSON/);
    expect(() => readSessionDocument('[]')).toThrow(/one JSON object/);
  });
});

describe('the published JSON Schema', () => {
  const schema = jsonSchema() as object;
  const validate = new Ajv2020({ strict: false, allErrors: false }).compile(schema);
  const joi = (doc: unknown) => sessionSchema.validate(doc, { convert: false }).error === undefined;

  it('in docs/session.schema.json is the one that the code gives', () => {
    expect(
      JSON.parse(readFileSync(new URL('../../docs/session.schema.json', import.meta.url), 'utf8')),
    ).toEqual(schema);
  });

  it('accepts every session that the program writes (checked by ajv)', () => {
    fc.assert(
      fc.property(fc.oneof(sessions(), automatedSessions()), (s) => {
        expect(validate(s) ? null : validate.errors).toBeNull();
      }),
      { numRuns: 60 },
    );
    expect(validate(demoSession())).toBe(true);
    expect(validate(least)).toBe(true);
  });

  it('and the reader judge alike what somebody has changed in a document', () => {
    const values = [
      null,
      -1,
      0,
      0.5,
      1,
      2,
      13,
      300,
      1e9,
      '',
      'main',
      'reverb',
      '#12345',
      '#123456',
      true,
      [],
      {},
      'sideways',
      -4.5,
    ];
    const paths: (string | number)[][] = [];
    const walk = (v: unknown, path: (string | number)[]) => {
      if (path.length) paths.push(path);
      if (typeof v === 'object' && v !== null)
        for (const [k, x] of Object.entries(v)) walk(x, [...path, Array.isArray(v) ? Number(k) : k]);
    };
    const demo = demoSession();
    const small = { ...demo, strips: demo.strips.slice(-6) };
    walk(small, []);
    let refused = 0;
    fc.assert(
      fc.property(fc.constantFrom(...paths), fc.constantFrom(...values, 'DELETE', 'ADD'), (path, value) => {
        const doc = structuredClone(small) as unknown as Record<string | number, unknown>;
        let at: Record<string | number, unknown> = doc;
        for (const step of path.slice(0, -1)) at = at[step] as typeof at;
        const last = path.at(-1)!;
        if (value === 'DELETE' && !Array.isArray(at)) delete at[last];
        else if (value === 'ADD' && !Array.isArray(at)) at.unexpected = 1;
        else at[last] = value;
        const ours = joi(doc);
        if (!ours) refused++;
        expect(`${path.join('.')} ${JSON.stringify(value)} ${validate(doc)}`).toBe(
          `${path.join('.')} ${JSON.stringify(value)} ${ours}`,
        );
      }),
      { numRuns: 1500 },
    );
    // Both verdicts have been seen.
    expect(refused).toBeGreaterThan(100);
  });
});
