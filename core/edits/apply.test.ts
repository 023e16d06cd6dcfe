import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { commandsFor, sessions } from '../testing/arbitraries';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import { checkSession } from './invariants';
import { Refusal } from '../base/refusal';
import type { Session } from '../session/types';
import { apply } from './apply';
import { validCommands } from './schema';
import type { Command } from './commands';

const freeze = <T>(value: T): T => {
  if (typeof value === 'object' && value !== null) {
    Object.freeze(value);
    for (const v of Object.values(value)) freeze(v);
  }
  return value;
};

describe('a command', () => {
  it('and then its inverse give the same document, and leave the first one untouched', () => {
    fc.assert(
      fc.property(
        sessions().chain((s) =>
          fc.tuple(fc.constant(s), fc.array(commandsFor(s), { minLength: 1, maxLength: 1 })),
        ),
        ([session, commands]) => {
          const before = freeze(structuredClone(session));
          const done = apply(before, commands);
          expect(apply(done.session, done.inverse).session).toEqual(before);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('list of several is undone in one', () => {
    fc.assert(
      fc.property(sessions(), (session) => {
        const commands: Command[] = [
          {
            type: 'strip.add',
            at: 0,
            strip: newStrip({ id: 'n', kind: 'submix', name: 'N', out: { to: 'main', on: true } }),
          },
          {
            type: 'strip.out',
            id: session.strips[0]!.id,
            out: session.strips[0]!.kind === 'output' ? session.strips[0]!.out : { to: 'n', on: true },
          },
          { type: 'vca.add', at: 0, vca: newVca({ id: 'nv', name: 'NV', members: ['n'] }) },
          { type: 'vca.set', id: 'nv', patch: { faderDb: -3 } },
        ];
        const done = apply(session, commands);
        checkSession(done.session);
        expect(apply(done.session, done.inverse).session).toEqual(session);
      }),
    );
  });

  it('survives being sent as JSON', () => {
    fc.assert(
      fc.property(
        sessions().chain((s) => fc.tuple(fc.constant(s), commandsFor(s))),
        ([session, command]) => {
          const sent = validCommands(JSON.parse(JSON.stringify([command])));
          expect(apply(session, sent).session).toEqual(apply(session, [command]).session);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('a refusal', () => {
  const base = newSession('Refusals');
  const session: Session = {
    ...base,
    strips: [
      newStrip({ id: 'voice', kind: 'source', name: 'Voice', out: { to: 'bus', on: true } }),
      newStrip({
        id: 'bus',
        kind: 'submix',
        name: 'Bus',
        out: { to: 'main', on: true },
        sends: [newSend({ id: 'x', to: 'plate' })],
      }),
      newStrip({ id: 'plate', kind: 'return', name: 'Plate', out: { to: 'main', on: true } }),
      ...base.strips,
    ],
    vcas: [newVca({ id: 'v', name: 'V', members: ['voice'] })],
  };
  const cases: readonly [string, Command, string, RegExp][] = [
    [
      'a loop through outs and sends',
      { type: 'strip.out', id: 'plate', out: { to: 'bus', on: true } },
      'cycle',
      /plate.*bus|bus.*plate/,
    ],
    [
      'a loop through a send that is off',
      { type: 'send.add', strip: 'plate', at: 0, send: newSend({ id: 'y', to: 'bus', on: false }) },
      'cycle',
      /→/,
    ],
    [
      'an out to what is not there',
      { type: 'strip.out', id: 'voice', out: { to: 'nowhere', on: true } },
      'dangling',
      /nowhere/,
    ],
    ['an out to a source', { type: 'strip.out', id: 'bus', out: { to: 'voice', on: true } }, 'kind', /voice/],
    ['removing what others feed', { type: 'strip.remove', id: 'plate' }, 'dangling', /plate/],
    [
      'an output that leads on',
      { type: 'strip.out', id: 'main', out: { to: 'bus', on: true } },
      'kind',
      /main/,
    ],
    [
      'an id that is taken',
      { type: 'vca.add', at: 0, vca: newVca({ id: 'voice', name: '', members: [] }) },
      'duplicate',
      /voice/,
    ],
    ['a VCA that holds itself', { type: 'vca.members', id: 'v', members: ['v'] }, 'cycle', /v → v/],
    [
      'a VCA over what is not there',
      { type: 'vca.members', id: 'v', members: ['ghost'] },
      'dangling',
      /ghost/,
    ],
    [
      'a key where none is taken',
      {
        type: 'insert.add',
        strip: 'bus',
        at: 0,
        insert: newInsert({ id: 'i', type: 'reverb', key: 'voice' }),
      },
      'kind',
      /key/,
    ],
    [
      'an unknown processor',
      { type: 'insert.add', strip: 'bus', at: 0, insert: newInsert({ id: 'i', type: 'nonsense' }) },
      'unknown',
      /nonsense/,
    ],
    ['an unknown strip', { type: 'strip.set', id: 'ghost', patch: { mute: true } }, 'unknown', /ghost/],
    ['an order that forgets one', { type: 'strips.order', order: ['voice', 'bus'] }, 'range', /order/],
    [
      'a section that ends before it begins',
      { type: 'sections.set', sections: [{ id: 's', name: 'Back', start: 4, end: 2 }] },
      'range',
      /Back/,
    ],
  ];
  it.each(cases)('of %s names the rule and the thing', (_what, command, rule, text) => {
    const untouched = structuredClone(session);
    let refusal: Refusal | null = null;
    try {
      apply(session, [command]);
    } catch (error) {
      refusal = error as Refusal;
    }
    expect(refusal).toBeInstanceOf(Refusal);
    expect(refusal!.rule).toBe(rule);
    expect(refusal!.message).toMatch(text);
    expect(session).toEqual(untouched);
  });

  it('of one command in a list refuses the whole list', () => {
    expect(() =>
      apply(session, [
        { type: 'strip.set', id: 'voice', patch: { mute: true } },
        { type: 'strip.remove', id: 'ghost' },
      ]),
    ).toThrow(Refusal);
    expect(session.strips[0]!.mute).toBe(false);
  });

  it.each([
    [[{ type: 'strip.set', id: 'voice', patch: { faderDb: 99 } }]],
    [[{ type: 'strip.set', id: 'voice', patch: { colour: 'red' } }]],
    [[{ type: 'strip.set', id: 'voice', patch: { surprise: 1 } }]],
    [[{ type: 'no.such', id: 'voice' }]],
    [[]],
    ['not a list'],
    [[{ type: 'strip.set', id: 'voice', patch: {} }]],
  ])('of %j, from outside, is made before it reaches the document', (raw) =>
    expect(() => validCommands(raw)).toThrow(/not understood/),
  );
});
