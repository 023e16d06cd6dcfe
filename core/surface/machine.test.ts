import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoSession } from '../../demo/session';
import { apply } from '../edits/apply';
import { newSession, newStrip, newVca } from '../session/defaults';
import type { Session } from '../session/types';
import { deskHost } from '../testing/deskHost';
import { midiBytes, MIDI_START, parseMidi, control14, type MidiMessage } from '../wire/midi';
import { levelAt, travelOf } from '../levels/faderLaw';
import { feedback } from './feedback';
import { receive } from './machine';
import { simulatedDesk, simulatedFaders } from './stands/motorFaders';
import { simulatedEncoders } from './stands/wideEncoders';

const base = newSession('Surface');
const tracks = (count: number): Session => ({
  ...base,
  strips: [
    ...Array.from({ length: count }, (_, i) =>
      newStrip({
        id: `t${i + 1}`,
        kind: 'source',
        name: `Track ${i + 1}`,
        faderDb: -10,
        out: { to: 'main', on: true },
      }),
    ),
    ...base.strips,
  ],
});
const session24 = tracks(23);
const three = [simulatedFaders, simulatedFaders, simulatedEncoders];
const faderMoves = (messages: readonly MidiMessage[], k: number) =>
  messages.filter((m) => m.type === 'controlChange' && m.channel === 16 && m.controller === 20 + k);
const levelOf = (session: Session, id: string) => session.strips.find((s) => s.id === id)!.faderDb;

describe('a fader', () => {
  it('that is moved under a hand gives live edits, and one to keep when it is let go', () => {
    const h = deskHost(session24);
    h.touch(2, true);
    for (const v of [9000, 9500, 10000]) h.move(2, v);
    expect(h.actions.map((a) => a.type)).toEqual(['live', 'live', 'live']);
    h.touch(2, false);
    expect(h.actions.at(-1)).toMatchObject({ type: 'commit', commands: [{ type: 'strip.set', id: 't3' }] });
    expect(levelOf(h.session, 't3')).toBeCloseTo(levelAt(10000 / 16383)!, 2);
    expect(levelOf(h.session, 't2')).toBe(-10);
  });
  it('with a hand on it is left alone; let go, it goes to where the session is', () => {
    const h = deskHost(session24);
    h.touch(0, true);
    h.edit(apply(h.session, [{ type: 'strip.set', id: 't1', patch: { faderDb: 0 } }]).session);
    expect(faderMoves(h.messages(), 0)).toHaveLength(0);
    h.touch(0, false);
    expect(faderMoves(h.messages(), 0)).toHaveLength(1);
  });
  it('is not sent back what the hand has just done', () => {
    const h = deskHost(session24);
    h.touch(4, true);
    h.move(4, 12345);
    h.touch(4, false);
    h.messages();
    h.edit(h.session);
    expect(faderMoves(h.messages(), 4)).toHaveLength(0);
  });
  it('goes back to where the session is when the session does not take what the hand asked for', () => {
    const h = deskHost(session24);
    h.touch(0, true);
    h.move(0, 3000);
    h.edit(session24);
    h.touch(0, false);
    h.edit(session24);
    expect(faderMoves(h.messages(), 0)).toHaveLength(1);
  });
  it('follows the session, in 14 bits', () => {
    const h = deskHost(session24);
    h.edit(apply(h.session, [{ type: 'strip.set', id: 't8', patch: { faderDb: 6 } }]).session);
    const sent = parseMidi(MIDI_START, control14(16, 27, Math.round(travelOf(6) * 16383))).messages;
    expect(h.messages().filter((m) => m.type === 'controlChange' && m.channel === 16)).toEqual(sent);
  });
  it('held while the window moves keeps what it did, and moves nothing more until it is let go', () => {
    const h = deskHost(session24);
    h.touch(0, true);
    h.move(0, 14000);
    h.push('bankRight');
    expect(levelOf(h.session, 't1')).toBeCloseTo(levelAt(14000 / 16383)!, 2);
    h.move(0, 2000);
    h.touch(0, false);
    expect(levelOf(h.session, 't9')).toBe(-10);
    // Now its motor brings it to the new strip's level.
    expect(faderMoves(h.messages(), 0).length).toBeGreaterThan(0);
  });
  it('moves a VCA like any strip, which lies behind what it holds', () => {
    const h = deskHost({ ...session24, vcas: [newVca({ id: 'v', name: 'Drums', members: ['t1', 't3'] })] });
    expect(h.slots().slice(0, 5)).toEqual(['t1', 't2', 't3', 'v', 't4']);
    h.touch(3, true);
    h.move(3, Math.round(travelOf(-3) * 16383));
    h.touch(3, false);
    expect(h.session.vcas[0]!.faderDb).toBeCloseTo(-3, 1);
    h.push('mute', 3);
    expect(h.session.vcas[0]!.mute).toBe(true);
    expect(h.light('mute', 3)).toBe(127);
  });
});

describe('the rest of the desk', () => {
  it('mutes, solos and picks the strip under the key, with its light', () => {
    const h = deskHost(session24);
    h.push('mute', 1);
    expect(h.session.strips[1]!.mute).toBe(true);
    expect(h.messages()).toContainEqual({ type: 'noteOn', channel: 15, note: 1, velocity: 127 });
    h.push('solo', 0);
    expect(h.session.strips[0]!.solo).toBe(true);
    h.push('pick', 3);
    expect(h.picked).toEqual(['t4']);
    h.push('play');
    h.push('stop');
    expect(h.actions.slice(-2)).toEqual([{ type: 'play' }, { type: 'stop' }]);
  });
  it('shows names, values, modes and colours, once', () => {
    const h = deskHost(session24);
    const texts = Array.from({ length: 8 }, (_, k) => h.display('name', k));
    expect(new Set(texts).size).toBe(8);
    expect(h.display('value', 0)).toBe('-10.0');
    expect(h.display('mode', 0)).toBe('READ');
    const again = feedback(h.context(), h.state);
    expect(again.bytes).toEqual({});
  });
  it('says everything in ASCII, within the characters of each display', () => {
    const odd = {
      ...session24,
      strips: session24.strips.map((s, i) => ({
        ...s,
        name: i % 2 ? 'Flöte − ∞ 東' : 'Überlange Bezeichnung',
      })),
    };
    const h = deskHost(odd, three);
    h.push('alongInput', null, 2);
    for (const [i, profile] of three.entries())
      for (const c of profile.controls)
        if (c.kind === 'display') {
          const text = h.state.units[h.unit(i)]!.sent[c.id]!;
          expect(text.length, c.id).toBeLessThanOrEqual(c.characters);
          expect(text, c.id).toMatch(/^[\x20-\x7e]*$/);
        }
  });
  it('ignores places without a strip', () => {
    const h = deskHost({ ...session24, strips: session24.strips.slice(-2) });
    h.push('mute', 7);
    h.touch(7, true);
    h.move(7, 100);
    h.touch(7, false);
    expect(h.actions).toEqual([]);
  });
  it('adds up what comes in one piece', () => {
    const h = deskHost(session24);
    const one = midiBytes({ type: 'controlChange', channel: 15, controller: 70, value: 65 });
    h.hear([...one, ...one, ...one]);
    expect(h.session.strips[0]!.pan).toBeCloseTo(0.06, 9);
  });
});

describe('bad input', () => {
  const demo = demoSession();
  it('of unknown bytes, half a system exclusive and garbage does nothing', () => {
    const h = deskHost(demo);
    h.hear([0x12, 0x7f, 0xf0, 0x01, 0x02]);
    h.hear([0xf4, 0xff, 0xfe, 0xf8, 0xb0, 0x90]);
    expect(h.actions).toEqual([]);
    h.push('mute', 0);
    expect(h.session.strips[0]!.mute).toBe(true);
  });
  it('running status goes on across real-time bytes, clock and active sensing (MIDI 1.0, chapter 2)', () => {
    const h = deskHost(demo);
    // Note on for mute 1, cut by clock and active sensing, then its release by running status with velocity 0.
    h.hear([0x9e, 0xf8, 0x00, 0xfe, 0x7f, 0xf8, 0x00, 0xfa, 0x00]);
    expect(h.session.strips[0]!.mute).toBe(true);
  });
  it('a flood of 10,000 messages is taken, and the last value stays', () => {
    const h = deskHost(demo);
    h.touch(0, true);
    const bytes: number[] = [];
    for (let i = 0; i < 10000; i++) bytes.push(...control14(16, 20, (i * 7919) % 16384));
    bytes.push(...control14(16, 20, 12000));
    h.hear(bytes);
    expect(h.session.strips[0]!.faderDb).toBeCloseTo(levelAt(12000 / 16383)!, 2);
  }, 60_000);
  it('a device that goes away in the middle of a drag: the drag is kept as one edit', () => {
    const h = deskHost(demo);
    h.touch(0, true);
    h.move(0, 9000);
    h.move(0, 9100);
    h.gone();
    expect(h.actions.filter((a) => a.type === 'commit')).toHaveLength(1);
    expect(h.kept.strips[0]!.faderDb).toBeCloseTo(levelAt(9100 / 16383)!, 2);
    // It comes back: everything is said to it anew.
    h.edit(h.session);
    expect(h.messages().length).toBeGreaterThan(50);
  });
  it('a unit without a profile is passed over, and the others work', () => {
    const h = deskHost(demo, [simulatedFaders, simulatedDesk]);
    h.set({ profile: (id) => (id === simulatedDesk.id ? simulatedDesk : undefined) });
    h.hear([0x9e, 0, 127], 0);
    expect(h.actions).toEqual([]);
    expect(h.slots(1)[0]).toBe('skin');
    h.push('mute', 0, 1);
    expect(h.session.strips[0]!.mute).toBe(true);
  });
  it('a strip removed under a hand: its drag is dropped, and the one that comes there does not move', () => {
    const h = deskHost(session24);
    h.touch(0, true);
    h.move(0, 9000);
    h.edit({ ...session24, strips: session24.strips.slice(1) });
    h.wait(1);
    expect(h.actions.at(-1)).toMatchObject({ type: 'drop' });
    h.move(0, 100);
    expect(levelOf(h.session, 't2')).toBe(-10);
    h.touch(0, false);
    expect(levelOf(h.session, 't2')).toBe(-10);
  });
  it('a session changed under two desks: both show it, neither fights', () => {
    const one = deskHost(demo);
    const two = deskHost(demo);
    one.touch(0, true);
    one.move(0, 9000);
    two.edit(one.session);
    expect(faderMoves(two.messages(), 0)).toHaveLength(1);
    expect(two.actions).toEqual([]);
    one.touch(0, false);
    two.touch(0, true);
    two.move(0, 4000);
    one.edit(two.session);
    expect(faderMoves(one.messages(), 0)).toHaveLength(1);
  });
});

/** Brings a device from nothing to where it was told to be: what it shows after all messages. */
function shownBy(messages: readonly MidiMessage[]) {
  const shown = new Map<string, string>();
  for (const m of messages)
    if (m.type === 'sysex') shown.set(`sysex ${m.data.slice(0, 4).join()}`, m.data.slice(4).join());
    else if (m.type === 'controlChange') shown.set(`cc ${m.channel} ${m.controller}`, String(m.value));
    else if (m.type === 'noteOn') shown.set(`note ${m.channel} ${m.note}`, String(m.velocity));
    else if (m.type === 'noteOff') shown.set(`note ${m.channel} ${m.note}`, '0');
  return shown;
}

describe('for any bytes in any order', () => {
  const demo = demoSession();
  /** Mostly what a desk may say, and some of what it may not. */
  const bytes = fc.oneof(
    {
      weight: 4,
      arbitrary: fc
        .tuple(fc.integer({ min: 0, max: 127 }), fc.boolean())
        .map(([n, on]) => [on ? 0x9e : 0x8e, n, on ? 127 : 0]),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(fc.integer({ min: 0, max: 127 }), fc.boolean())
        .map(([n, on]) => [on ? 0x9d : 0x8d, n, on ? 127 : 0]),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(fc.integer({ min: 20, max: 27 }), fc.boolean())
        .map(([n, on]) => [on ? 0x9f : 0x8f, n, on ? 127 : 0]),
    },
    {
      weight: 3,
      arbitrary: fc
        .tuple(fc.integer({ min: 0, max: 7 }), fc.integer({ min: 0, max: 16383 }))
        .map(([k, v]) => [...control14(16, 20 + k, v)]),
    },
    {
      weight: 2,
      arbitrary: fc
        .tuple(fc.integer({ min: 70, max: 77 }), fc.integer({ min: 60, max: 68 }))
        .map(([c, v]) => [0xbe, c, v]),
    },
    { weight: 1, arbitrary: fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 6 }) },
  );

  it('`feedback` brings the device to the session', () => {
    fc.assert(
      fc.property(fc.array(bytes, { maxLength: 40 }), (pieces) => {
        const h = deskHost(demo);
        const before = h.messages();
        for (const piece of pieces) h.hear(piece);
        // All hands let go, everything has rested.
        for (let k = 0; k < 8; k++) h.touch(k, false);
        h.wait(5000);
        h.settle();
        const told = shownBy([...before, ...h.messages()]);
        // A device that has heard nothing is told everything, and shows the same.
        const known = h.state.units[h.unit(0)]!;
        const fresh = feedback(h.context(), {
          ...h.state,
          units: { [h.unit(0)]: { ...known, sent: {}, heard: {} } },
        });
        const anew = shownBy(parseMidi(MIDI_START, fresh.bytes[h.unit(0)] ?? []).messages);
        for (const [key, value] of told) {
          // A fader that stands where its hand put it is not sent there again.
          if (key.startsWith('cc 16')) continue;
          // A key that some bytes left held may be lit.
          if (key.startsWith('note')) continue;
          expect(anew.get(key), key).toBe(value);
        }
        const at = (k: number) => h.state.units[h.unit(0)]!.heard[`fader${k + 1}`];
        for (const [k, id] of h.slots().entries()) {
          const strip = h.session.strips.find((s) => s.id === id);
          if (strip && !h.state.flip)
            expect(Math.abs(at(k)! - travelOf(strip.faderDb) * 16383), id!).toBeLessThanOrEqual(4);
        }
      }),
      { numRuns: 60 },
    );
  }, 120_000);

  it("a hand's strip never changes under it", () => {
    fc.assert(
      fc.property(fc.array(bytes, { maxLength: 30 }), (pieces) => {
        const h = deskHost(demo);
        h.touch(3, true);
        const mine = h.slots()[3]!;
        for (const piece of pieces) {
          // The hand itself lies still; whatever else is done, no fader moves but by other hands.
          if (piece[0] === 0x9f || piece[0] === 0x8f) continue;
          const before = h.session;
          const under = h.slots()[3];
          h.hear(piece);
          if (piece.length > 3 && piece[1] === 23) {
            const changed = h.session.strips.filter(
              (s, i) => s.id === before.strips[i]?.id && s.faderDb !== before.strips[i].faderDb,
            );
            // A move of this hand moves its own strip, or nothing once another has come under it.
            for (const s of changed) expect([mine, under === mine ? mine : null]).toContain(s.id);
          }
        }
      }),
      { numRuns: 100 },
    );
  }, 120_000);

  it('no state stops the desk: after anything, a free fader moves its strip', () => {
    fc.assert(
      fc.property(fc.array(bytes, { maxLength: 30 }), (pieces) => {
        const h = deskHost(demo);
        let state = h.state;
        for (const piece of pieces) state = receive(h.context(), state, h.unit(0), piece).state;
        expect(() => feedback(h.context(), state)).not.toThrow();
      }),
      { numRuns: 60 },
    );
  }, 60_000);
});
