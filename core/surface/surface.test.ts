import { describe, expect, it } from 'vitest';
import { apply } from '../edits/apply';
import { newSession, newStrip } from '../session/defaults';
import type { Session } from '../session/types';
import { control14, midiBytes, MIDI_START, parseMidi, type MidiMessage } from '../wire/midi';
import { levelAt, travelOf } from '../levels/faderLaw';
import { validProfile } from './profile';
import simulatedDesk from './profiles/simulatedDesk.json';
import {
  feedback,
  moveWindow,
  receive,
  SURFACE_START,
  windowOf,
  type SurfaceAction,
  type SurfaceState,
} from './surface';

const profile = validProfile(simulatedDesk);
const base = newSession('Surface');
const session24: Session = {
  ...base,
  strips: [
    ...Array.from({ length: 23 }, (_, i) =>
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
};
const press = (role: string, position: number | null = null) => {
  const b = profile.controls.find((c) => c.kind === 'button' && c.role === role && c.position === position);
  if (b?.kind !== 'button' || b.in.type !== 'note') throw new Error(role);
  return [
    ...midiBytes({ type: 'noteOn', channel: b.in.channel, note: b.in.note, velocity: 127 }),
    ...midiBytes({ type: 'noteOff', channel: b.in.channel, note: b.in.note, velocity: 0 }),
  ];
};
const touch = (k: number, on: boolean) =>
  midiBytes({ type: on ? 'noteOn' : 'noteOff', channel: 16, note: 20 + k, velocity: on ? 127 : 0 });
const move = (k: number, value: number) => control14(16, 20 + k, value);
/** A host that carries out what the surface asks for. */
function host(start: Session) {
  let session = start;
  let state: SurfaceState = SURFACE_START;
  const actions: SurfaceAction[] = [];
  const out: number[] = [];
  const live = new Map<string, Session>();
  return {
    get session() {
      return session;
    },
    get state() {
      return state;
    },
    actions,
    messages: () => parseMidi(MIDI_START, out.splice(0)).messages,
    edit(next: Session) {
      session = next;
      const f = feedback(session, state, profile);
      state = f.state;
      out.push(...f.bytes);
    },
    hear(bytes: readonly number[]) {
      const shown = [...live.values()].at(-1) ?? session;
      const step = receive(shown, state, bytes, profile);
      state = step.state;
      for (const a of step.actions) {
        actions.push(a);
        if (a.type === 'live' || a.type === 'settle') live.set(a.drag, apply(session, a.commands).session);
        if (a.type === 'commit') {
          live.delete(a.drag);
          session = apply(session, a.commands).session;
        }
      }
      const f = feedback([...live.values()].at(-1) ?? session, state, profile);
      state = f.state;
      out.push(...f.bytes);
    },
  };
}
const faderMoves = (messages: readonly MidiMessage[], k: number) =>
  messages.filter((m) => m.type === 'controlChange' && m.channel === 16 && m.controller === 20 + k);

describe('banks', () => {
  // Common practice, no published source: eight faders over 24 strips show 1-8, 9-16 and 17-24.
  it('of eight over 24 strips show 1-8, 9-16 and 17-24, and stop there', () => {
    const h = host(session24);
    const shown = () => windowOf(h.session, h.state, profile).map((s) => s?.name.replace('Track ', ''));
    expect(shown()).toEqual(['1', '2', '3', '4', '5', '6', '7', '8']);
    h.hear(press('bankRight'));
    expect(shown()).toEqual(['9', '10', '11', '12', '13', '14', '15', '16']);
    h.hear(press('bankRight'));
    expect(shown()).toEqual(['17', '18', '19', '20', '21', '22', '23', 'Main']);
    h.hear(press('bankRight'));
    expect(h.state.first).toBe(16);
    h.hear(press('bankLeft'));
    h.hear(press('nudgeRight'));
    expect(shown()[0]).toBe('10');
    h.hear(press('bankLeft'));
    h.hear(press('bankLeft'));
    expect(h.state.first).toBe(0);
  });
  it('leave hidden strips out', () => {
    const hidden = {
      ...session24,
      strips: session24.strips.map((s) => (s.id === 't2' ? { ...s, hidden: true } : s)),
    };
    expect(windowOf(hidden, SURFACE_START, profile)[1]?.id).toBe('t3');
  });
  it('show what is left when strips go', () => {
    const few = { ...session24, strips: session24.strips.slice(-3) };
    expect(moveWindow(few, 0, 8, profile)).toBe(0);
    expect(windowOf(few, { first: 0 }, profile).filter(Boolean)).toHaveLength(3);
  });
});

describe('a fader', () => {
  it('that is moved under a hand gives live edits, and one to keep when it is let go', () => {
    const h = host(session24);
    h.hear(touch(2, true));
    for (const v of [9000, 9500, 10000]) h.hear(move(2, v));
    expect(h.actions.map((a) => a.type)).toEqual(['live', 'live', 'live']);
    h.hear(touch(2, false));
    expect(h.actions.at(-1)).toMatchObject({ type: 'commit', commands: [{ type: 'strip.set', id: 't3' }] });
    expect(h.session.strips[2]!.faderDb).toBeCloseTo(levelAt(10000 / 16383)!, 2);
    expect(h.session.strips[1]!.faderDb).toBe(-10);
  });
  it('with a hand on it is left alone; let go, it goes to where the session is', () => {
    const h = host(session24);
    h.edit(h.session);
    h.messages();
    h.hear(touch(0, true));
    h.edit(apply(h.session, [{ type: 'strip.set', id: 't1', patch: { faderDb: 0 } }]).session);
    expect(faderMoves(h.messages(), 0)).toHaveLength(0);
    h.hear(touch(0, false));
    expect(faderMoves(h.messages(), 0)).toHaveLength(1);
  });
  it('is not sent back what the hand has just done', () => {
    const h = host(session24);
    h.edit(h.session);
    h.hear(touch(4, true));
    h.hear(move(4, 12345));
    h.hear(touch(4, false));
    h.messages();
    h.edit(h.session);
    expect(faderMoves(h.messages(), 4)).toHaveLength(0);
  });
  it('follows the session, in 14 bits', () => {
    const h = host(session24);
    h.edit(h.session);
    h.messages();
    h.edit(apply(h.session, [{ type: 'strip.set', id: 't8', patch: { faderDb: 6 } }]).session);
    const sent = parseMidi(MIDI_START, control14(16, 27, Math.round(travelOf(6) * 16383))).messages;
    expect(h.messages().filter((m) => m.type === 'controlChange' && m.channel === 16)).toEqual(sent);
  });
  it('held while the window moves keeps what it did, and moves nothing more until it is let go', () => {
    const h = host(session24);
    h.hear(touch(0, true));
    h.hear(move(0, 14000));
    h.hear(press('bankRight'));
    expect(h.session.strips[0]!.faderDb).toBeCloseTo(levelAt(14000 / 16383)!, 2);
    h.hear(move(0, 2000));
    h.hear(touch(0, false));
    expect(h.session.strips[8]!.faderDb).toBe(-10);
    // Now its motor brings it to the new strip's level.
    expect(faderMoves(h.messages(), 0).length).toBeGreaterThan(0);
  });
});

describe('the rest of the desk', () => {
  it('mutes, solos and picks the strip under the button, with its light', () => {
    const h = host(session24);
    h.edit(h.session);
    h.messages();
    h.hear(press('mute', 1));
    expect(h.session.strips[1]!.mute).toBe(true);
    expect(h.messages()).toContainEqual({ type: 'noteOn', channel: 15, note: 1, velocity: 127 });
    h.hear(press('solo', 0));
    expect(h.session.strips[0]!.solo).toBe(true);
    h.hear(press('pick', 3));
    expect(h.actions.at(-1)).toEqual({ type: 'pick', strip: 't4' });
    h.hear([...press('play'), ...press('stop')]);
    expect(h.actions.slice(-2)).toEqual([{ type: 'play' }, { type: 'stop' }]);
  });
  it('pans by relative steps, to be kept when the knob rests', () => {
    const h = host(session24);
    h.hear(midiBytes({ type: 'controlChange', channel: 15, controller: 70, value: 64 - 5 }));
    expect(h.actions[0]).toMatchObject({ type: 'settle', commands: [{ id: 't1', patch: { pan: -0.1 } }] });
  });
  it('shows names, values and colours, once', () => {
    const first = feedback(session24, SURFACE_START, profile);
    const texts = parseMidi(MIDI_START, first.bytes).messages.flatMap((m) =>
      m.type === 'sysex' && m.data[2] === 1 ? [String.fromCharCode(...m.data.slice(4)).trim()] : [],
    );
    expect(texts).toHaveLength(8);
    expect(new Set(texts).size).toBe(8);
    expect(feedback(session24, first.state, profile).bytes).toEqual([]);
  });
  it('ignores positions without a strip', () => {
    const few = { ...session24, strips: session24.strips.slice(-2) };
    const h = host(few);
    h.hear([...press('mute', 7), ...touch(7, true), ...move(7, 100), ...touch(7, false)]);
    expect(h.actions).toEqual([]);
  });
});

describe('a profile', () => {
  it.each([
    [{ ...simulatedDesk, width: 0 }],
    [{ ...simulatedDesk, controls: [] }],
    [
      {
        ...simulatedDesk,
        controls: [
          { id: 'f', kind: 'fader', position: 0, in: { type: 'control14', channel: 17, controller: 1 } },
        ],
      },
    ],
    [{ ...simulatedDesk, surprise: true }],
  ])('that says nonsense is refused (%#)', (raw) =>
    expect(() => validProfile(raw)).toThrow(/not understood/),
  );
});
