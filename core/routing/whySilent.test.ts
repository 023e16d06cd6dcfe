import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { Session, Strip } from '../session/types';
import { sessions } from '../testing/arbitraries';
import { trace } from './trace';
import { whySilent } from './whySilent';

const base = newSession('Silence');
const strip = (id: string, kind: Strip['kind'], to: string | null, more: Partial<Strip> = {}) =>
  newStrip({
    id,
    kind,
    name: id,
    stem: kind === 'source' ? `stems/${id}.wav` : null,
    out: { to, on: true },
    ...more,
  });
const session = (changes: Record<string, Partial<Strip>> = {}, more: Partial<Session> = {}): Session => ({
  ...base,
  strips: [
    strip('a', 'source', 'bus'),
    strip('b', 'source', 'main'),
    strip('bus', 'submix', 'main'),
    ...base.strips,
    strip('cue', 'output', null, { pair: 3 }),
  ].map((s) => ({ ...s, ...changes[s.id] })),
  ...more,
});
const kinds = (s: Session, id = 'a') => whySilent(s, id).stops.map((x) => `${x.strip}: ${x.kind}`);

describe('why silent', () => {
  it('finds nothing where the strip is heard, and says how loud it is', () => {
    const found = whySilent(session({ a: { faderDb: -6, pan: -1 } }), 'a');
    expect(found.stops).toEqual([]);
    expect(found.levelDb).toBeCloseTo(-6, 6);
    expect(found.output).toBe('main');
  });
  it.each<[string, Session, string[]]>([
    ['no stem', session({ a: { stem: null } }), ['a: no material']],
    ['its own mute', session({ a: { mute: true } }), ['a: mute']],
    ['its trim', session({ a: { trimDb: null } }), ['a: trim']],
    ['its fader', session({ a: { faderDb: null } }), ['a: fader']],
    ['a bus that is muted', session({ bus: { mute: true } }), ['bus: mute']],
    ['solo elsewhere', session({ b: { solo: true } }), ['a: solo']],
    ['the dry path', session({ a: { out: { to: 'bus', on: false } } }), ['a: dry path']],
    ['the output’s mute', session({ main: { mute: true } }), ['main: mute']],
    ['an output that is off', session({ main: { out: { to: null, on: false } } }), ['main: output off']],
    ['no path', session({ a: { out: { to: null, on: true } } }), ['a: no path']],
    ['another output', session({ a: { out: { to: 'cue', on: true } } }), ['a: other output']],
    ['the chosen output', session({}, { monitor: 'cue' }), ['a: other output']],
    [
      'a VCA that is muted',
      session({}, { vcas: [newVca({ id: 'v', name: 'V', mute: true, members: ['a'] })] }),
      ['a: VCA muted'],
    ],
    [
      'a VCA that is down, over the bus, through another VCA',
      session(
        {},
        {
          vcas: [
            newVca({ id: 'v', name: 'V', members: ['bus'] }),
            newVca({ id: 'w', name: 'W', faderDb: null, members: ['v'] }),
          ],
        },
      ),
      ['bus: VCA down'],
    ],
    [
      'one thing after another, in the order of the signal',
      session({ a: { mute: true, faderDb: null }, bus: { mute: true } }),
      ['a: mute', 'a: fader', 'bus: mute'],
    ],
  ])('tells of %s', (_name, s, expected) => expect(kinds(s)).toEqual(expected));

  it('takes the way with the fewest stops: a send that is down rather than a dry path that is off and muted', () => {
    const s = session({
      a: { out: { to: 'bus', on: false }, sends: [newSend({ id: 'x', to: 'main', levelDb: null })] },
      bus: { mute: true },
    });
    expect(kinds(s)).toEqual(['a: send down']);
  });
  it('says that the strip rests at the playhead when nothing else stops it', () => {
    const found = whySilent(session(), 'a', { soundsHere: () => false });
    expect(found.stops.map((s) => s.kind)).toEqual(['no material']);
    expect(whySilent(session(), 'a', { soundsHere: () => undefined }).stops).toEqual([]);
  });

  it('gives steps that, all done, make every strip of any session heard', () => {
    fc.assert(
      fc.property(sessions(10), (s) => {
        for (const t of s.strips) {
          const found = whySilent(s, t.id);
          let next = s;
          for (const stop of found.stops) if (stop.repair) next = apply(next, stop.repair.commands).session;
          const after = whySilent(next, t.id).stops.filter((x) => x.kind !== 'no material');
          expect(after).toEqual([]);
          // A dry path says more than words: the trace finds a way with nothing in it that stops.
          const paths = trace(next, t.id, 'main', { most: 3000 }).paths;
          expect(paths.some((p) => p.stages.every((g) => !g.stops))).toBe(true);
        }
      }),
      { numRuns: 80 },
    );
  });
  it('finds stops exactly where the trace finds no way that is open', () => {
    fc.assert(
      fc.property(sessions(10), (s) => {
        for (const t of s.strips) {
          const open = trace(s, t.id, 'main', { most: 3000 }).paths.some((p) =>
            p.stages.every((g) => !g.stops),
          );
          expect(whySilent(s, t.id).stops.filter((x) => x.kind !== 'no material').length === 0).toBe(open);
        }
      }),
      { numRuns: 80 },
    );
  });
});
