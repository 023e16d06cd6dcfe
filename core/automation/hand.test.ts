import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import type { Command } from '../edits/commands';
import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { AutomationMode, Session } from '../session/types';
import { sessionAt, standingAt } from './at';
import { partEdit } from './hand';
import { isArmed, nextMode } from '../session/mode';
import { clearLanes, clearSpan, movePoint, setLanes, withoutPoint, withPoint, writtenOwners } from './edit';
import { findControl } from './control';

const base = newSession('Hand');
const session = (automation: AutomationMode): Session => ({
  ...base,
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      automation,
      faderDb: -3,
      lanes: {
        fader: [
          [0, -12],
          [4, 0],
        ],
      },
      sends: [newSend({ id: 'x', to: 'bus', lanes: { on: [[1, 0]] } })],
      inserts: [
        newInsert({ id: 'c', type: 'compressor', params: { ratio: 2 }, lanes: { threshold: [[0, -30]] } }),
      ],
      out: { to: 'main', on: true },
    }),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
  vcas: [newVca({ id: 'v', name: 'V', members: ['a'], lanes: { mute: [[2, 1]] } })],
});
const parted = (s: Session, commands: readonly Command[], time = 2) =>
  partEdit(s, sessionAt(s, time), commands, (p) => isArmed(p.mode));

describe('a session at a time', () => {
  it('has its controls where the lanes have them, and is itself where nothing is automated', () => {
    const now = sessionAt(session('read'), 3);
    expect(now.strips[0]!.faderDb).toBeCloseTo(-3, 9);
    expect(now.strips[0]!.sends[0]!.on).toBe(false);
    expect(now.strips[0]!.inserts[0]!.params).toEqual({ ratio: 2, threshold: -30 });
    expect(now.vcas[0]!.mute).toBe(true);
    const off = session('off');
    expect(sessionAt(off, 3).strips[0]).toBe(off.strips[0]);
    expect(sessionAt(base, 3)).toBe(base);
  });
  it('as it stands has no lanes any more', () => {
    const still = standingAt(session('read'), 0);
    expect(still.strips[0]!.faderDb).toBe(-12);
    expect(writtenOwners(still)).toEqual([]);
  });
});

describe('an edit while lanes are followed', () => {
  const level: Command = { type: 'strip.set', id: 'a', patch: { faderDb: -1, name: 'New' } };
  it('is parted into moves to write and the rest, where the strip is armed', () => {
    const { moves, rest } = parted(session('touch'), [level]);
    expect(moves.map((m) => [m.ref.control, m.value])).toEqual([['fader', -1]]);
    expect(rest).toEqual([{ type: 'strip.set', id: 'a', patch: { name: 'New' } }]);
  });
  it('stays an edit where it is not armed', () => {
    expect(parted(session('read'), [level])).toEqual({ moves: [], rest: [level] });
  });
  it('does not put a control to where its lane happens to have it', () => {
    const s = session('read');
    const { faderDb } = sessionAt(s, 2).strips[0]!;
    const { rest } = parted(s, [{ type: 'strip.set', id: 'a', patch: { faderDb, pan: 0.5 } }]);
    expect(rest).toEqual([{ type: 'strip.set', id: 'a', patch: { pan: 0.5 } }]);
  });
  it('of one parameter leaves the automated ones where they were put', () => {
    const s = session('read');
    const { params } = sessionAt(s, 2).strips[0]!.inserts[0]!;
    const edit: Command = {
      type: 'insert.set',
      strip: 'a',
      id: 'c',
      patch: { params: { ...params, ratio: 4 } },
    };
    expect(parted(s, [edit]).rest).toEqual([
      { type: 'insert.set', strip: 'a', id: 'c', patch: { params: { ratio: 4 } } },
    ]);
    const armed = parted(session('latch'), [
      { type: 'insert.set', strip: 'a', id: 'c', patch: { params: { ...params, threshold: -20 } } },
    ]);
    expect(armed.moves.map((m) => [m.ref.control, m.value])).toEqual([['threshold', -20]]);
    expect(armed.rest).toEqual([]);
  });
  it('takes switches and sends too', () => {
    const s = session('touch');
    const { moves, rest } = parted(s, [
      { type: 'strip.set', id: 'a', patch: { mute: true } },
      { type: 'send.set', strip: 'a', id: 'x', patch: { levelDb: -9, tap: 'pre' } },
    ]);
    expect(moves.map((m) => [m.ref.part, m.ref.control, m.value])).toEqual([
      ['strip', 'mute', 1],
      ['send', 'level', -9],
    ]);
    expect(rest).toEqual([{ type: 'send.set', strip: 'a', id: 'x', patch: { tap: 'pre' } }]);
  });
});

describe('modes', () => {
  it('are stepped through, and while it rolls write is passed by', () => {
    const walk = (rolling: boolean) => {
      const seen: AutomationMode[] = ['off'];
      for (let i = 0; i < 6; i++) seen.push(nextMode(seen.at(-1)!, rolling));
      return seen;
    };
    expect(walk(false)).toEqual(['off', 'read', 'touch', 'latch', 'trim', 'write', 'off']);
    expect(walk(true)).not.toContain('write');
    for (const mode of walk(false)) expect(nextMode(mode, true, -1)).not.toBe('write');
    expect(nextMode('write', true)).toBe('off');
  });
});

describe('points by hand', () => {
  const s = session('read');
  const fader = findControl(s, { part: 'strip', owner: 'a', id: null, control: 'fader' })!;
  it('are added, moved between their neighbours, and taken out', () => {
    const lane = withPoint(fader.lane!, 2, -6);
    expect(lane).toEqual([
      [0, -12],
      [2, -6],
      [4, 0],
    ]);
    expect(movePoint(lane, 1, 9, -3)[1]).toEqual([4, -3]);
    expect(movePoint(lane, 1, -9, -3)[1]).toEqual([0, -3]);
    expect(withoutPoint(lane, 1)).toEqual(fader.lane);
    expect(withoutPoint([[0, 1]], 0)).toBeNull();
  });
  it('of a span are cleared, and what is around it stays as it was', () => {
    const lane = [1, 2, 3].reduce((l, t) => withPoint(l, t, -20 + t), fader.lane!);
    const cleared = clearSpan({ ...fader, lane }, 1.5, 2.5)!;
    expect(cleared.filter(([t]) => t > 1.5 && t < 2.5)).toEqual([]);
    expect(cleared.map(([t]) => t)).toEqual([0, 1, 1.5, 2.5, 3, 4]);
    expect(clearSpan({ ...fader, lane }, 0, 4)).toBeNull();
  });
  it('of several controls of one strip are one command, and all of a strip’s can be taken out', () => {
    const edits = ['fader', 'pan'].map((control) => ({
      ref: { part: 'strip', owner: 'a', id: null, control } as const,
      lane: [[0, 0]] as const,
    }));
    const commands = setLanes(s, edits);
    expect(commands).toHaveLength(1);
    expect(apply(s, commands).session.strips[0]!.lanes).toEqual({ fader: [[0, 0]], pan: [[0, 0]] });
    const none = apply(s, clearLanes(s, ['a', 'v'])).session;
    expect(writtenOwners(none)).toEqual([]);
    expect(writtenOwners(s)).toEqual(['a', 'v']);
  });
});
