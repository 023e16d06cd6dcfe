import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import type { Command } from '../edits/commands';
import { newInsert, newLink, newSend, newSession, newStrip } from '../session/defaults';
import { stripOf } from '../session/lookup';
import type { Link, Session } from '../session/types';
import { laneValue } from '../automation/lane';
import { FADER } from '../session/controls';
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

describe('a link of automation', () => {
  const linked = (keeps: boolean): Session => ({
    ...session,
    links: [newLink({ id: 'l', name: 'L', members: ['a', 'b'], parts: ['automation'], keeps })],
  });
  const lane = [
    [0, -6],
    [2, 0],
  ] as const;
  const write: Command = { type: 'strip.set', id: 'a', patch: { lanes: { fader: lane } } };

  it('sets the mode of one on all', () => {
    const s = linked(true);
    const next = apply(
      s,
      withLinks(s, [{ type: 'strip.set', id: 'b', patch: { automation: 'latch' } }]),
    ).session;
    expect(['a', 'b', 'c'].map((id) => stripOf(next, id).automation)).toEqual(['latch', 'latch', 'read']);
  });
  it('writes what is written on one on all, as far apart as they stood', () => {
    const s = linked(true);
    const next = apply(s, withLinks(s, [write])).session;
    expect(stripOf(next, 'a').lanes.fader).toEqual(lane);
    // a stands at -6 and b at -10: four below throughout.
    for (const t of [0, 2, 9])
      expect(laneValue(FADER, stripOf(next, 'b').lanes.fader!, t)).toBeCloseTo(
        laneValue(FADER, lane, t)! - 4,
        9,
      );
    expect(stripOf(next, 'c').lanes).toEqual({});
  });
  it('that keeps no differences writes the same, and takes out what is taken out', () => {
    const s = linked(false);
    const next = apply(s, withLinks(s, [write])).session;
    expect(stripOf(next, 'b').lanes.fader).toEqual(lane);
    const gone = apply(next, withLinks(next, [{ type: 'strip.set', id: 'b', patch: { lanes: {} } }])).session;
    expect(stripOf(gone, 'a').lanes).toEqual({});
  });
  it('goes with sends to the same place and inserts of the same kind', () => {
    const s = linked(false);
    const next = apply(
      s,
      withLinks(s, [
        { type: 'send.set', strip: 'a', id: 'x-a', patch: { lanes: { level: [[0, -3]] } } },
        { type: 'insert.set', strip: 'a', id: 'e-a', patch: { lanes: { bell1Gain: [[0, 5]] } } },
      ]),
    ).session;
    const b = stripOf(next, 'b');
    expect(b.sends[0]!.lanes).toEqual({ level: [[0, -3]] });
    expect(b.inserts[0]!.lanes).toEqual({ bell1Gain: [[0, 5]] });
    // The settings themselves are no part of this link.
    expect(b.sends[0]!.levelDb).toBe(-19);
    expect(b.inserts[0]!.params).toEqual(session.strips[1]!.inserts[0]!.params);
  });
  it('leaves alone what is written on both in one edit', () => {
    const s = linked(true);
    const both: Command[] = [write, { type: 'strip.set', id: 'b', patch: { lanes: { fader: [[0, -20]] } } }];
    expect(withLinks(s, both)).toEqual(both);
  });
});
