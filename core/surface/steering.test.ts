import { describe, expect, it } from 'vitest';
import { newInsert, newSend, newSession, newStrip } from '../session/defaults';
import type { Session } from '../session/types';
import { deskHost } from '../testing/deskHost';
import { midiBytes } from '../wire/midi';
import { filledProfile } from './profile/profile';
import { validProfile } from './profile/validProfile';

/** 24 sources, two returns and the main output. */
const session: Session = (() => {
  const base = newSession('Many');
  const returns = ['hall', 'plate'].map((id) =>
    newStrip({ id, kind: 'return', name: id, out: { to: 'main', on: true } }),
  );
  const sources = Array.from({ length: 24 }, (_, i) =>
    newStrip({
      id: `s${i + 1}`,
      kind: 'source',
      name: `S${i + 1}`,
      faderDb: -10,
      out: { to: 'main', on: true },
      sends: returns.map((r, k) => newSend({ id: `x${i}-${k}`, to: r.id, tap: 'post', levelDb: -20 })),
      inserts: i === 4 ? [newInsert({ id: 'comp', type: 'compressor' })] : [],
    }),
  );
  return { ...base, strips: [...sources, ...returns, ...base.strips] };
})();
const cc = (controller: number, value: number) =>
  midiBytes({ type: 'controlChange', channel: 1, controller, value });

const control = (n: number) => ({ type: 'control', channel: 1, controller: n });
/** A plain controller as it comes out of learning: eight faders, eight knobs of pans, two keys. */
const plain = (more: readonly object[] = []) =>
  validProfile(
    filledProfile({
      format: 'zonula-surface',
      version: 2,
      id: 'learned',
      name: 'Learned',
      width: 8,
      controls: [
        ...Array.from({ length: 8 }, (_, k) => ({
          id: `f${k}`,
          kind: 'fader',
          position: k,
          in: control(20 + k),
        })),
        ...Array.from({ length: 8 }, (_, k) => ({
          id: `k${k}`,
          kind: 'encoder',
          position: k,
          in: control(50 + k),
          coding: 'position',
          steers: { type: 'across', what: 'pan', nth: null, of: 'place', strip: null },
        })),
        { id: 'left', kind: 'key', role: 'bankLeft', in: control(102) },
        { id: 'right', kind: 'key', role: 'bankRight', in: control(103) },
        ...more,
      ],
    }),
  );
const strip = (h: ReturnType<typeof deskHost>, id: string) => h.session.strips.find((s) => s.id === id)!;
/** A fader or knob is moved through its whole way, so that it takes hold of whatever it steers. */
const sweep = (h: ReturnType<typeof deskHost>, controller: number, to: number) => {
  for (let v = 0; v <= 127; v++) h.hear(cc(controller, v));
  for (let v = 127; v >= to; v--) h.hear(cc(controller, v));
};
const push = (h: ReturnType<typeof deskHost>, controller: number) => {
  h.hear(cc(controller, 127));
  h.hear(cc(controller, 0));
};

describe('a plain controller over 24 strips', () => {
  // Common practice, no published source: eight faders to levels, eight knobs to pans, two keys to the banks of eight before and behind.
  it('goes by banks of eight: 1-8, 9-16, 17-24, and back', () => {
    const h = deskHost(session, [plain()]);
    const ids = (from: number) => Array.from({ length: 8 }, (_, k) => `s${from + k}`);
    expect(h.slots()).toEqual(ids(1));
    push(h, 103);
    expect(h.slots()).toEqual(ids(9));
    push(h, 103);
    expect(h.slots()).toEqual(ids(17));
    push(h, 102);
    push(h, 102);
    expect(h.slots()).toEqual(ids(1));
  });

  it('moves no level before it has reached it, and pans by its knobs whatever the encoders of the desk are set to', () => {
    const h = deskHost(session, [plain()]);
    h.hear(cc(20, 127));
    h.hear(cc(20, 120));
    expect(strip(h, 's1').faderDb).toBe(-10);
    sweep(h, 20, 95);
    // Three quarters of the way are 0 dB (docs/session-format.md, fader law).
    expect(strip(h, 's1').faderDb).toBeCloseTo(0, 0);
    h.role('acrossTrim');
    sweep(h, 52, 127);
    expect(strip(h, 's3').pan).toBe(1);
    push(h, 103);
    sweep(h, 52, 0);
    expect(strip(h, 's11').pan).toBe(-1);
    expect(strip(h, 's3').pan).toBe(1);
  });
});

const knob = (steers: object) =>
  plain([
    {
      id: 'extra',
      kind: 'encoder',
      position: 8,
      in: control(70),
      coding: 'position',
      steers: { type: 'across', ...steers },
    },
  ]);
describe('a control that always does one thing', () => {
  it('does it to the strip that is picked', () => {
    const h = deskHost(session, [knob({ what: 'trim', of: 'picked' })]);
    h.pick(['s20']);
    sweep(h, 70, 127);
    expect(strip(h, 's20').trimDb).toBeGreaterThan(10);
    expect(session.strips.every((s) => s.id === 's20' || strip(h, s.id).trimDb === 0)).toBe(true);
  });
  it('to a send of it, by its number', () => {
    const h = deskHost(session, [knob({ what: 'send', nth: 1, of: 'picked' })]);
    h.pick(['s2']);
    sweep(h, 70, 127);
    expect(strip(h, 's2').sends.map((x) => x.levelDb)).toEqual([-20, 12]);
  });
  it('to a parameter of an insert of it; a strip without one is left alone', () => {
    const h = deskHost(session, [
      knob({
        type: 'parameter',
        processor: 'compressor',
        parameter: 'threshold',
        of: 'picked',
      }),
    ]);
    h.pick(['s5']);
    sweep(h, 70, 0);
    const threshold = strip(h, 's5').inserts[0]!.params.threshold!;
    expect(threshold).toBeLessThan(-50);
    h.pick(['s6']);
    sweep(h, 70, 64);
    expect(strip(h, 's5').inserts[0]!.params.threshold).toBe(threshold);
  });
  it('to one strip alone, and to the main output by a ninth fader that takes no place of the window', () => {
    const ninth = {
      id: 'f8',
      kind: 'fader',
      position: 8,
      in: control(28),
      steers: { type: 'across', what: 'level', nth: null, of: 'main', strip: null },
    };
    const h = deskHost(session, [plain([ninth])]);
    expect(h.slots()).toHaveLength(8);
    sweep(h, 28, 0);
    expect(strip(h, 'main').faderDb).toBeNull();
    expect(strip(h, 's1').faderDb).toBe(-10);
    const one = deskHost(session, [knob({ what: 'level', of: 'strip', strip: 's9' })]);
    sweep(one, 70, 0);
    expect(strip(one, 's9').faderDb).toBeNull();
  });
  it('and nothing where that strip is gone', () => {
    const h = deskHost(session, [knob({ what: 'level', of: 'strip', strip: 'gone' })]);
    expect(() => sweep(h, 70, 0)).not.toThrow();
    expect(h.session).toEqual(session);
  });
});

describe('what a learned control says', () => {
  const one = (more: object) =>
    validProfile(
      filledProfile({
        format: 'zonula-surface',
        version: 2,
        id: 'one',
        name: 'One',
        width: 1,
        pickup: 'jump',
        controls: [more],
      }),
    );
  it('backwards is turned round, and its own ends are the ends of its way', () => {
    const h = deskHost(session, [
      one({
        id: 'f',
        kind: 'fader',
        position: 0,
        in: control(7),
        reversed: true,
        range: { low: 1290, high: 15480 },
      }),
    ]);
    h.hear(cc(7, 64));
    h.hear(cc(7, 9));
    expect(strip(h, 's1').faderDb).toBe(12);
    h.hear(cc(7, 121));
    expect(strip(h, 's1').faderDb).toBeNull();
  });
  it('the lower half first makes one position', () => {
    const h = deskHost(session, [
      one({
        id: 'f',
        kind: 'fader',
        position: 0,
        in: { type: 'control14', channel: 1, controller: 7, lowFirst: true },
      }),
    ]);
    for (const [low, high] of [
      [0, 64],
      [127, 127],
    ] as const)
      h.hear([...cc(39, low), ...cc(7, high)]);
    expect(strip(h, 's1').faderDb).toBe(12);
  });
  it('increments and decrements of a parameter are steps', () => {
    const h = deskHost(session, [
      one({
        id: 'e',
        kind: 'encoder',
        position: 0,
        coding: 'increments',
        in: { type: 'parameter', channel: 1, parameter: 9 },
      }),
    ]);
    h.hear([...cc(99, 0), ...cc(98, 9), ...cc(96, 0), ...cc(96, 0)]);
    const right = strip(h, 's1').pan;
    expect(right).toBeGreaterThan(0);
    h.hear([...cc(97, 0), ...cc(97, 0), ...cc(97, 0)]);
    expect(strip(h, 's1').pan).toBeLessThan(right);
  });
  it.each([
    ['on', [127, 127]],
    ['none', [127]],
  ] as const)('a key that says %s when it is let go does what it does once a push', (release, push) => {
    const profile = validProfile(
      filledProfile({
        format: 'zonula-surface',
        version: 2,
        id: 'keys',
        name: 'Keys',
        width: 1,
        controls: [
          { id: 'f', kind: 'fader', position: 0, in: control(7) },
          { id: 'k', kind: 'key', role: 'nudgeRight', in: control(50), release },
        ],
      }),
    );
    const h = deskHost(session, [profile]);
    for (let n = 1; n <= 3; n++) {
      for (const v of push) h.hear(cc(50, v));
      expect(h.slots()).toEqual([`s${1 + n}`]);
    }
  });
  it('a key does an action of the palette that its profile names', () => {
    const profile = one({ id: 'k', kind: 'key', role: 'action', action: 'view.flow', in: control(50) });
    const h = deskHost(session, [profile]);
    push(h, 50);
    expect(h.actions).toContainEqual({ type: 'run', action: 'view.flow' });
    expect(() => one({ id: 'k', kind: 'key', role: 'action', in: control(50) })).toThrow(
      /"controls\[0\].action" is null/,
    );
    expect(() => one({ id: 'k', kind: 'key', role: 'play', action: 'x', in: control(50) })).toThrow(
      /controls\[0\].action" is `x`/,
    );
  });
});
