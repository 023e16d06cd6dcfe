import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { validSession, writeSessionDocument } from '../formats/sessionDocument';
import { LIMITS } from '../base/limits';
import { processors } from '../processors/registry';
import { sessions } from '../testing/arbitraries';
import { newInsert, newSend, newSession, newStrip } from '../session/defaults';
import type { Session } from '../session/types';
import { apply } from './apply';
import { validCommands } from './schema';
import type { Command } from './commands';

/** Values that a field may be given by somebody who wishes it no good. */
const odd = fc.oneof(
  fc.constantFrom<unknown>(
    null,
    true,
    false,
    0,
    -1,
    1,
    0.5,
    3,
    64,
    1e15,
    -1e15,
    1e-300,
    '',
    'x',
    'x'.repeat(201),
    'a\0b',
    '\ud83c',
    '#123456',
    {},
    [],
    'pre',
    'read',
    { fader: [[0, 1e9]] },
    {
      fader: [
        [2, 0],
        [1, 0],
      ],
    },
    { gain: [[0, 1]], mix: [[0, 0.5]] },
    ['fader'],
    ['main', 'main'],
  ),
  fc.double({ noNaN: true }),
  fc.string(),
);
const STRIP = [
  'name',
  'family',
  'colour',
  'trimDb',
  'width',
  'faderDb',
  'pan',
  'mute',
  'pair',
  'preamp',
  'lanes',
  'automation',
];
const SEND = ['to', 'tap', 'levelDb', 'pan', 'on', 'lanes'];
const INSERT = ['place', 'on', 'mix', 'key', 'lanes', 'params'];
const SESSION = ['name', 'panLaw', 'monitor', 'dismissed', 'tempo'];
const LINK = ['name', 'on', 'members', 'parts', 'keeps'];

const patch = (fields: readonly string[], ids: fc.Arbitrary<string>) =>
  fc.dictionary(fc.constantFrom(...fields), fc.oneof(odd, ids, fc.array(ids, { maxLength: 3 }), parameters), {
    minKeys: 1,
    maxKeys: 2,
  });
const parameters = fc
  .constantFrom(...processors)
  .chain((p) =>
    fc.dictionary(
      fc.constantFrom('mood', ...p.parameters.map((x) => x.id)),
      fc.oneof(fc.constantFrom(1e15, -1e15, 0, 1, -200), fc.double({ noNaN: true })),
      { maxKeys: 3 },
    ),
  );

function hostile(session: Session): fc.Arbitrary<Command[]> {
  const ids = fc.constantFrom(...session.strips.map((s) => s.id), ...session.vcas.map((v) => v.id), 'new');
  const strips = fc.constantFrom(...session.strips);
  const at = fc.nat(3);
  const insert = fc
    .record({
      type: fc.constantFrom(...processors.map((p) => p.type)),
      params: parameters,
      more: patch(INSERT, ids),
    })
    .map(({ type, params, more }) => ({ ...newInsert({ id: 'i-new', type }), params, ...more }));
  return fc.array(
    fc.oneof(
      fc.record({ type: fc.constant('session.set'), patch: patch(SESSION, ids) }),
      fc.record({ type: fc.constant('strip.set'), id: ids, patch: patch(STRIP, ids) }),
      fc.record({
        type: fc.constant('strip.out'),
        id: ids,
        out: fc.record({ to: fc.oneof(ids, fc.constant(null)), on: fc.boolean() }),
      }),
      fc.record({ type: fc.constant('insert.add'), strip: ids, insert, at }),
      fc.record({
        type: fc.constant('send.add'),
        strip: ids,
        send: ids.map((to) => newSend({ id: 's-new', to })),
        at,
      }),
      strips.map((s) => ({ type: 'strip.add', strip: { ...s, id: 'new' }, at: 0 })),
      strips.chain((s): fc.Arbitrary<unknown> =>
        s.inserts.length
          ? fc.record({
              type: fc.constant('insert.set'),
              strip: fc.constant(s.id),
              id: fc.constantFrom(...s.inserts.map((i) => i.id)),
              patch: patch(INSERT, ids),
            })
          : fc.constant({ type: 'strip.remove', id: s.id }),
      ),
      strips.chain((s): fc.Arbitrary<unknown> =>
        s.sends.length
          ? fc.record({
              type: fc.constant('send.set'),
              strip: fc.constant(s.id),
              id: fc.constantFrom(...s.sends.map((x) => x.id)),
              patch: patch(SEND, ids),
            })
          : fc.constant({
              type: 'strips.order',
              order: session.strips.map((x) => x.id).reverse(),
            }),
      ),
      fc.record({
        type: fc.constant('vca.add'),
        vca: fc.record({ id: fc.constantFrom('v', 'main'), members: fc.array(ids, { maxLength: 3 }) }),
        at,
      }),
      fc.record({ type: fc.constant('link.add'), link: fc.record({ id: fc.constant('l') }), at }),
      fc.record({ type: fc.constant('link.set'), id: fc.constant('l'), patch: patch(LINK, ids) }),
      fc.record({
        type: fc.constant('sections.set'),
        sections: fc.array(
          fc.record({
            id: fc.constantFrom('p', 'q'),
            start: fc.constantFrom(0, 1, 1e9),
            end: fc.constantFrom(0, 2, 1e9),
          }),
          { maxLength: 2 },
        ),
      }),
    ),
    { minLength: 1, maxLength: 3 },
  ) as unknown as fc.Arbitrary<Command[]>;
}

describe('every edit is held to what a package is held to', () => {
  it('what is accepted can be written and read back the same, whatever the commands', () => {
    let accepted = 0;
    fc.assert(
      fc.property(
        sessions(6).chain((s) => fc.tuple(fc.constant(s), hostile(s))),
        ([session, raw]) => {
          let next: Session;
          try {
            next = apply(session, validCommands(raw)).session;
          } catch {
            return;
          }
          accepted++;
          expect(validSession(JSON.parse(writeSessionDocument(next)))).toEqual(next);
        },
      ),
      { numRuns: 6000 },
    );
    // The property says something only where some are.
    expect(accepted).toBeGreaterThan(600);
  });

  const base = newSession('Limits');
  const source = newStrip({ id: 'a', kind: 'source', name: 'A', out: { to: 'main', on: true } });
  const session: Session = {
    ...base,
    strips: [{ ...source, inserts: [newInsert({ id: 'g', type: 'gain' })] }, ...base.strips],
  };
  const many = <T>(count: number, make: (n: number) => T) => Array.from({ length: count }, (_, n) => make(n));
  it.each<[string, Command[], RegExp]>([
    [
      'a gain of 10^15 dB',
      [{ type: 'insert.set', strip: 'a', id: 'g', patch: { params: { gain: 1e15 } } }],
      /`gain` of `g` in `a` is 1000000000000000: it reaches from/,
    ],
    [
      'a parameter that is none',
      [{ type: 'insert.set', strip: 'a', id: 'g', patch: { params: { mood: 1 } } }],
      /has no `mood`/,
    ],
    [
      '65 inserts',
      many(LIMITS.inserts, (n) => ({
        type: 'insert.add',
        strip: 'a',
        at: 0,
        insert: newInsert({ id: `i${n}`, type: 'gain' }),
      })),
      /`a` has 65 inserts: 64 are the most/,
    ],
    [
      '201 sends',
      many(LIMITS.sends + 1, (n) => ({
        type: 'send.add',
        strip: 'a',
        at: 0,
        send: newSend({ id: `s${n}`, to: 'main' }),
      })),
      /`a` has 201 sends/,
    ],
    [
      '1,002 strips',
      many(LIMITS.strips, (n) => ({ type: 'strip.add', at: 0, strip: { ...source, id: `n${n}` } })),
      /1002 strips: 1000 are the most/,
    ],
  ])('%s', (_what, commands, reason) => {
    expect(() => apply(session, validCommands(commands))).toThrow(reason);
  });

  it('but an edit is not refused for what was wrong before it, so that it can be mended', () => {
    const loud = (id: string) => newInsert({ id, type: 'gain', params: { gain: 1e15 } });
    const old: Session = {
      ...session,
      strips: [{ ...source, inserts: [loud('g'), loud('h')] }, ...base.strips],
    };
    const mend = (id: string): Command => ({
      type: 'insert.set',
      strip: 'a',
      id,
      patch: { params: { gain: 0 } },
    });
    const first = apply(old, [mend('g')]);
    const second = apply(first.session, [mend('h')]);
    expect(() => validSession(second.session)).not.toThrow();
    expect(apply(second.session, [mend('h')]).session).toEqual(second.session);
    // Nor does it let anything else in.
    expect(() =>
      apply(second.session, [{ type: 'strip.out', id: 'a', out: { to: 'a', on: true } }]),
    ).toThrow();
  });
});
