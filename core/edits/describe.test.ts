import fc from 'fast-check';
import { describe as suite, expect, it } from 'vitest';
import { commandsFor, sessions } from '../testing/arbitraries';
import { apply } from './apply';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import { describe } from './describe';
import type { Session } from '../session/types';

const base = newSession('Words');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'Fiddle',
      out: { to: 'main', on: true },
      sends: [newSend({ id: 'x', to: 'plate', levelDb: -12 })],
    }),
    newStrip({
      id: 'plate',
      kind: 'return',
      name: 'Plate',
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: 'r', type: 'reverb' })],
    }),
    ...base.strips,
  ],
  vcas: [newVca({ id: 'v', name: 'All', members: ['a'] })],
};
const words = (...commands: Parameters<typeof describe>[1]) =>
  describe(session, commands).map((l) => `${l.name}: ${l.text}`);

suite('an edit in words', () => {
  it('tells levels, taps and switches with what they were', () =>
    expect(
      words(
        { type: 'strip.set', id: 'a', patch: { faderDb: -3, mute: true, pan: 0.5 } },
        { type: 'send.set', strip: 'a', id: 'x', patch: { tap: 'pre', levelDb: null } },
        { type: 'strip.out', id: 'a', out: { to: 'plate', on: false } },
        { type: 'insert.set', strip: 'plate', id: 'r', patch: { mix: 0.5, on: false } },
        { type: 'vca.members', id: 'v', members: ['plate'] },
      ),
    ).toEqual([
      'Fiddle: level −3.0 dB, was 0.0 dB',
      'Fiddle: pan R50, was C',
      'Fiddle: muted',
      'Fiddle: out to Plate, was Main',
      'Fiddle: dry path off',
      'Fiddle: send to Plate: pre-fader, silence; was post-fader, −12.0 dB',
      'Plate: Reverb bypassed',
      'Plate: Reverb 50 % wet, was 100 %',
      'All: lets go of Fiddle',
      'All: holds Plate',
    ]));
  it('tells what is new and what goes', () =>
    expect(
      words(
        { type: 'send.remove', strip: 'a', id: 'x' },
        { type: 'strip.remove', id: 'plate' },
        {
          type: 'strip.add',
          at: 0,
          strip: newStrip({ id: 'b', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
        },
        { type: 'vca.remove', id: 'v' },
      ),
    ).toEqual([
      'Plate: is removed',
      'Bus: new submix, out to Main',
      'Fiddle: send to Plate removed',
      'All: is removed',
    ]));
  it('says nothing of what stays as it is', () =>
    expect(words({ type: 'strip.set', id: 'a', patch: { faderDb: 0, mute: false } })).toEqual([]));
  it('says something of every edit that changes what is heard or read, and nothing of none', () => {
    fc.assert(
      fc.property(
        sessions(8).chain((s) => commandsFor(s).map((c) => ({ s, c }))),
        ({ s, c }) => {
          const after = apply(s, [c]).session;
          const lines = describe(s, [c]);
          // Sections are not told, and the order in which a VCA names its members means nothing.
          if (c.type === 'sections.set') return;
          if (c.type === 'vca.members') {
            const members = s.vcas.find((v) => v.id === c.id)!.members;
            if ([...members].sort().join() === [...c.members].sort().join()) return;
          }
          expect(lines.length > 0).toBe(JSON.stringify(after) !== JSON.stringify(s));
        },
      ),
      { numRuns: 300 },
    );
  });
});
