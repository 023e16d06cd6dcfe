import { readFileSync } from 'node:fs';
import Ajv2020 from 'ajv/dist/2020';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../../demo/session';
import { fieldPage } from '../../formats/fieldPage';
import { fieldsJson } from './fieldJson';
import { patchJoi, shapeJoi, wholeJoi } from './fieldJoi';
import Joi from './joi';
import { LIMITS } from '../../base/limits';
import { processors } from '../../processors/registry';
import { apply } from '../../edits/apply';
import type { Command } from '../../edits/commands';
import { describe as describeEdit } from '../../edits/describe';
import { checkSession } from '../../edits/invariants';
import { breaksRules, defaultsOf, settable, type Fields, type Shape } from './shape';
import {
  INSERT,
  LAYOUT,
  LINK,
  PIN,
  PREAMP_SETTINGS,
  SECTION,
  SEND,
  SESSION,
  STRIP,
  TEMPO,
  VCA,
} from './tables';

const TABLES = { INSERT, LAYOUT, LINK, PIN, PREAMP_SETTINGS, SECTION, SEND, SESSION, STRIP, TEMPO, VCA };
const demo = demoSession();

/** Values that a shape holds. */
function valueIn(shape: Shape): fc.Arbitrary<unknown> {
  const orNull = (a: fc.Arbitrary<unknown>) =>
    'nullable' in shape && shape.nullable ? fc.option(a, { nil: null }) : a;
  switch (shape.kind) {
    case 'flag':
      return fc.boolean();
    case 'level':
      return fc.option(fc.double({ min: LIMITS.lowestDb, max: shape.top, noNaN: true }), { nil: null });
    case 'number':
      return orNull(
        shape.whole || shape.step
          ? fc
              .integer({
                min: Math.ceil(shape.min / (shape.step ?? 1)),
                max: Math.floor(shape.max / (shape.step ?? 1)),
              })
              .map((n) => n * (shape.step ?? 1))
          : fc.double({ min: shape.min, max: shape.max, noNaN: true }),
      );
    case 'choice':
      return fc.constantFrom(...shape.values);
    case 'text':
      return orNull(
        fc.stringMatching(/^[ -~]*$/).map((t) => t.slice(0, shape.most) || (shape.least ? 'x' : '')),
      );
    case 'id':
      return orNull(fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9._-]{0,20}$/));
    case 'colour':
      return fc.stringMatching(/^#[0-9a-f]{6}$/);
    case 'processor':
      return fc.constantFrom(...processors.map((p) => p.type));
    case 'params':
      return fc.constant({});
    case 'lanes':
      return fc.constant(
        shape.controls
          ? {
              [Object.keys(shape.controls)[0]!]: [
                [0, 0],
                [1, 1],
              ],
            }
          : {},
      );
    case 'object':
      return orNull(
        fc.record(
          Object.fromEntries(Object.entries(shape.fields).map(([name, f]) => [name, valueIn(f.shape)])),
        ),
      );
    case 'patch':
      return patchOf(shape.of);
    case 'oneOf':
      return fc.oneof(
        ...Object.entries(shape.of).map(([kind, fields]) =>
          fc.record({
            [shape.by]: fc.constant(kind),
            ...Object.fromEntries(Object.entries(fields).map(([n, f]) => [n, valueIn(f.shape)])),
          }),
        ),
      );
    case 'list':
      return shape.unique
        ? fc.uniqueArray(valueIn(shape.of), { maxLength: 4 })
        : fc.array(valueIn(shape.of), { maxLength: 2 });
  }
}
const patchOf = (fields: Fields, unruled = false) => {
  const names = settable(fields).filter(([, f]) => !unruled || !f.ruled);
  return fc
    .record(Object.fromEntries(names.map(([name, f]) => [name, valueIn(f.shape)])), {
      requiredKeys: [],
      noNullPrototype: true,
    })
    .filter((patch) => Object.keys(patch).length > 0);
};

describe.each(Object.entries(TABLES))('the fields of %s', (_name, fields: Fields) => {
  it('have defaults that both validators take', () => {
    const kinds = ['source', 'submix', 'return', 'output'];
    for (const kind of kinds)
      for (const [name, value] of Object.entries(defaultsOf(fields, kind)))
        expect(shapeJoi(fields[name]!.shape).validate(value).error, `${name} of a ${kind}`).toBe(undefined);
  });
  it('are taken by the validator of documents and by the published schema alike', () => {
    const document = Joi.object(wholeJoi(fields));
    const schema = new Ajv2020({ strict: false }).compile(fieldsJson(fields) as object);
    fc.assert(
      fc.property(valueIn({ kind: 'object', fields }), (value) => {
        expect(document.validate(value, { convert: false }).error).toBe(undefined);
        expect(schema(value), JSON.stringify(schema.errors)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
  it('stand in a patch without their defaults, and those that are fixed in none', () => {
    const patch = Joi.object(patchJoi(fields));
    fc.assert(
      fc.property(patchOf(fields), (value) => {
        // Minus zero is written as zero.
        expect(patch.validate(value, { convert: false }).value).toEqual(JSON.parse(JSON.stringify(value)));
      }),
      { numRuns: 40 },
    );
    for (const [name, f] of Object.entries(fields))
      if (f.fixed) expect(patch.validate({ [name]: null }).error).not.toBe(undefined);
  });
});

it('stand in docs/fields.md as they are', () => {
  expect(readFileSync(new URL('../../../docs/fields.md', import.meta.url), 'utf8')).toBe(fieldPage());
});

describe('a field that is not said to be under a rule', () => {
  it('has none held against it; what is said of some has the thing looked at, and what is not known all', () => {
    expect(breaksRules(STRIP, { faderDb: -3, pan: 0, mute: true, name: 'A' })).toBe(false);
    expect(breaksRules(STRIP, { faderDb: -3, lanes: {} })).toBe('itself');
    expect(breaksRules(INSERT, { on: true, params: {} })).toBe('itself');
    expect(breaksRules(INSERT, { params: {}, key: null })).toBe(true);
    expect(breaksRules(STRIP, { nonsense: 1 })).toBe(true);
  });
  const strip = fc.constantFrom(...demo.strips);
  const edit: fc.Arbitrary<Command> = fc.oneof(
    patchOf(SESSION, true).map((patch): Command => ({ type: 'session.set', patch })),
    fc
      .tuple(strip, patchOf(STRIP, true))
      .map(([s, patch]): Command => ({ type: 'strip.set', id: s.id, patch })),
    fc
      .tuple(fc.constantFrom(...demo.strips.filter((s) => s.sends.length)), patchOf(SEND, true))
      .map(([s, patch]): Command => ({ type: 'send.set', strip: s.id, id: s.sends[0]!.id, patch })),
    fc
      .tuple(fc.constantFrom(...demo.strips.filter((s) => s.inserts.length)), patchOf(INSERT, true))
      .map(([s, patch]): Command => ({ type: 'insert.set', strip: s.id, id: s.inserts[0]!.id, patch })),
    fc
      .tuple(fc.constantFrom(...demo.vcas), patchOf(VCA, true))
      .map(([v, patch]): Command => ({ type: 'vca.set', id: v.id, patch })),
  );
  it('breaks none, whatever it is set to, and is undone', () => {
    fc.assert(
      fc.property(fc.array(edit, { minLength: 1, maxLength: 3 }), (commands) => {
        const { session, inverse } = apply(demo, commands);
        expect(() => checkSession(session)).not.toThrow();
        expect(apply(session, inverse).session).toEqual(demo);
      }),
      { numRuns: 300 },
    );
  });
  it('is told when it changes, but where a part of the session says more of it', () => {
    // Sends are told whole; the tempo, the links' and the findings' fields by their views.
    const told = { STRIP, VCA, INSERT };
    const silent = ['VCA.colour', 'STRIP.lanes', 'VCA.lanes', 'INSERT.lanes', 'INSERT.params'];
    for (const [table, fields] of Object.entries(told))
      for (const [name, f] of settable(fields))
        expect(!!f.words || silent.includes(`${table}.${name}`), `${table}.${name}`).toBe(true);
    expect(describeEdit(demo, [{ type: 'strip.set', id: 'skin', patch: { pan: -0.5 } }])).toMatchObject([
      { about: 'skin', text: expect.stringMatching(/^pan L50, was/) },
    ]);
  });
});
