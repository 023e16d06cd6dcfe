import { describe, expect, it } from 'vitest';
import { apply } from '../commands/apply';
import type { Command } from '../commands/types';
import { newInsert, newLink, newSend, newSession, newStrip } from '../defaults';
import { stripOf } from '../lookup';
import type { Link, Session } from '../types';
import { linksOf, linkStrips } from './links';
import { together, withLinks } from './together';

const base = newSession('Together');
const strip = (id: string, faderDb: number | null, pan: number, gain: number) =>
  newStrip({
    id,
    kind: 'source',
    name: id,
    faderDb,
    pan,
    out: { to: 'main', on: true },
    sends: [newSend({ id: `x-${id}`, to: 'bus', levelDb: -20 + gain })],
    inserts: [
      newInsert({
        id: `e-${id}`,
        type: 'equalizer',
        params: { bell1Gain: gain, bell1Frequency: 200 * (gain + 1) },
      }),
    ],
  });
const session: Session = {
  ...base,
  strips: [
    strip('a', -6, -0.5, 0),
    strip('b', -10, 0, 1),
    strip('c', null, 0.9, 2),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};
const done = (commands: readonly Command[]) => apply(session, commands).session;
const fader = (id: string, faderDb: number | null): Command => ({
  type: 'strip.set',
  id,
  patch: { faderDb },
});

describe('picked strips edited together', () => {
  it('move by the same decibels and keep their differences; what is silent stays silent', () => {
    const next = done(together(session, [fader('a', -9)], ['a', 'b', 'c'], true));
    expect(['a', 'b', 'c'].map((id) => stripOf(next, id).faderDb)).toEqual([-9, -13, null]);
  });
  it('or all get the same value, by choice', () => {
    const next = done(together(session, [fader('a', -9)], ['a', 'b', 'c'], false));
    expect(['a', 'b', 'c'].map((id) => stripOf(next, id).faderDb)).toEqual([-9, -9, -9]);
  });
  it('stop at the ends of a range, each by itself', () => {
    const next = done(
      together(session, [{ type: 'strip.set', id: 'a', patch: { pan: 0 } }], ['a', 'c'], true),
    );
    expect(stripOf(next, 'c').pan).toBe(1);
  });
  it('change a processor’s parameter by the same step, a frequency by the same share', () => {
    const edit: Command = {
      type: 'insert.set',
      strip: 'a',
      id: 'e-a',
      patch: { params: { bell1Gain: 3, bell1Frequency: 400 } },
    };
    const kept = done(together(session, [edit], ['a', 'b', 'c'], true));
    expect(stripOf(kept, 'b').inserts[0]!.params).toEqual({ bell1Gain: 4, bell1Frequency: 800 });
    expect(stripOf(kept, 'c').inserts[0]!.params).toEqual({ bell1Gain: 5, bell1Frequency: 1200 });
    const alike = done(together(session, [edit], ['a', 'b', 'c'], false));
    expect(stripOf(alike, 'c').inserts[0]!.params).toEqual({ bell1Gain: 3, bell1Frequency: 400 });
  });
  it('add an insert to all, each with an id of its own, and remove it from all', () => {
    const insert = newInsert({ id: 'g', type: 'gate' });
    const next = done(
      together(session, [{ type: 'insert.add', strip: 'a', insert, at: 1 }], ['a', 'b', 'c'], true),
    );
    const ids = ['a', 'b', 'c'].map((id) => stripOf(next, id).inserts.find((i) => i.type === 'gate')!.id);
    expect(new Set(ids).size).toBe(3);
    const gone = apply(
      next,
      together(next, [{ type: 'insert.remove', strip: 'b', id: ids[1]! }], ['a', 'b', 'c'], true),
    ).session;
    expect(gone.strips.flatMap((s) => s.inserts).some((i) => i.type === 'gate')).toBe(false);
  });
  it('pass over strips that are in the edit already', () => {
    const commands = [fader('a', -9), fader('b', 0)];
    expect(together(session, commands, ['a', 'b'], true)).toBe(commands);
  });
});

describe('a link', () => {
  const linked = (more: Partial<Link>, members = ['a', 'b']): Session => ({
    ...session,
    links: [newLink({ id: 'l', name: 'L', members, ...more })],
  });
  const level = (s: Session, id: string) => stripOf(s, id).faderDb;

  it('moves its members in both directions, and nothing else', () => {
    const s = linked({ parts: ['fader'] });
    expect(level(apply(s, withLinks(s, [fader('a', -7)])).session, 'b')).toBe(-11);
    expect(level(apply(s, withLinks(s, [fader('b', -12)])).session, 'a')).toBe(-8);
    const panned = withLinks(s, [{ type: 'strip.set', id: 'a', patch: { pan: 1 } }]);
    expect(panned).toHaveLength(1);
  });
  it('that is off, or of which a member is moved alone, moves nothing', () => {
    const s = linked({ on: false, parts: ['fader'] });
    expect(withLinks(s, [fader('a', -7)])).toHaveLength(1);
  });
  it('mutes and solos alike, and follows sends', () => {
    const s = linked({ parts: ['mute', 'sends'] });
    const next = apply(
      s,
      withLinks(s, [
        { type: 'strip.set', id: 'a', patch: { mute: true } },
        { type: 'send.set', strip: 'a', id: 'x-a', patch: { levelDb: -14, tap: 'pre' } },
      ]),
    ).session;
    expect(stripOf(next, 'b').mute).toBe(true);
    expect(stripOf(next, 'b').sends[0]).toMatchObject({ levelDb: -13, tap: 'pre' });
  });
  it('passes on to the next link that a member stands in, once', () => {
    const s: Session = {
      ...session,
      links: [
        newLink({ id: 'l1', name: '1', members: ['a', 'b'], parts: ['fader'], keeps: false }),
        newLink({ id: 'l2', name: '2', members: ['b', 'c'], parts: ['fader'], keeps: false }),
      ],
    };
    const commands = withLinks(s, [fader('a', -3)]);
    expect(commands).toHaveLength(3);
    expect(level(apply(s, commands).session, 'c')).toBe(-3);
  });
  it('is made of two strips or more, and known by its members', () => {
    expect(() => linkStrips(session, ['a'])).toThrow(/two strips or more/);
    const made = linkStrips(session, ['a', 'b'], { parts: ['pan'] });
    const next = apply(session, made.commands).session;
    expect(linksOf(next, 'b')[0]).toMatchObject({ id: made.made, parts: ['pan'], members: ['a', 'b'] });
  });
});
