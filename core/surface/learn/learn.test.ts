import { describe, expect, it } from 'vitest';
import { control14, MIDI_START, midiBytes, parseMidi } from '../../wire/midi';
import { validProfile } from '../profile/validProfile';
import { draftsFrom, profileFrom, clashesOf } from './draft';
import { learn, type Ask, type Found, type Step } from './learn';
import type { HeardAt } from './sources';

/*
 * Streams are written by hand from "MIDI 1.0 Detailed Specification" (MMA, document version 4.2): control changes in Table III, 14-bit
 * controllers and data increment, decrement and entry on page 12 and 18, note on of velocity 0 on page 10, real-time bytes on page 30.
 * Codings of endless encoders: common practice, no published source.
 */

/** A device whose bytes are parsed as they come. */
function device() {
  let parser = MIDI_START;
  let now = 0;
  const heard: HeardAt[] = [];
  const steps: Step[] = [];
  const it = {
    heard,
    steps,
    wait(ms: number) {
      now += ms;
      return it;
    },
    ask(ask: Ask) {
      now += 500;
      steps.push({ ask, at: now });
      now += 500;
      return it;
    },
    say(...bytes: number[]) {
      const { messages, state } = parseMidi(parser, bytes);
      parser = state;
      for (const message of messages) heard.push({ at: now, message });
      return it;
    },
    /** A controller through some values, 15 ms apart. */
    move(controller: number, values: readonly number[], channel = 1) {
      for (const v of values) it.say(0xb0 + channel - 1, controller, v).wait(15);
      return it.wait(400);
    },
    found: () => learn(heard, steps).found,
    only(): Found {
      const { found } = learn(heard, steps);
      expect(found).toHaveLength(1);
      return found[0]!;
    },
  };
  return it;
}
const ramp = (from: number, to: number, step = 4) => {
  const values = [from];
  while (values.at(-1)! !== to) {
    const at = values.at(-1)!;
    values.push(from < to ? Math.min(to, at + step) : Math.max(to, at - step));
  }
  return values;
};

describe('positions', () => {
  it('are found in the order in which they are moved, with their address and end to end', () => {
    const d = device().ask('faders');
    const controllers = [73, 75, 79, 72, 80, 81, 82, 83];
    for (const c of controllers) d.move(c, ramp(0, 127));
    const found = d.found();
    expect(found.map((f) => f.address)).toEqual(
      controllers.map((controller) => ({ type: 'control', channel: 1, controller })),
    );
    for (const f of found) expect(f).toMatchObject({ is: 'position', range: null, tells: [], value: 16383 });
    expect(found.every((f) => f.sure > 0.9)).toBe(true);
  });

  it('of a worn pot, which trembles between neighbours and does not reach its ends, have their own range', () => {
    const worn = [...ramp(40, 124, 3), ...ramp(124, 3, 3)].flatMap((v) => [v, Math.min(124, v + 1), v]);
    const f = device().ask('knobs').move(21, worn).only();
    expect(f).toMatchObject({ is: 'position', coding: 'position' });
    expect(f.range).toEqual({ low: Math.round((3 / 127) * 16383), high: Math.round((124 / 127) * 16383) });
    expect(f.tells).toEqual([]);
    // Where it begins nothing is known of the end that it left.
    expect(device().ask('knobs').move(21, ramp(6, 127)).only().range).toBeNull();
  });

  it('trembling about the middle is no turning: 64 is said too', () => {
    expect(device().ask('knobs').move(21, [63, 64, 65, 64, 63, 64, 65, 66, 65, 64]).only().is).toBe(
      'position',
    );
  });

  it.each([false, true])(
    'of 14 bits are put together from halves in either order (lower first: %s)',
    (lowFirst) => {
      const d = device().ask('faders');
      for (let v = 0; v <= 16383; v += 211) {
        const [status, , upper, , , lower] = control14(2, 7, v) as [
          number,
          number,
          number,
          number,
          number,
          number,
        ];
        const halves = [
          [status, 7, upper],
          [status, 39, lower],
        ];
        for (const half of lowFirst ? [...halves].reverse() : halves) d.say(...half);
        d.wait(10);
      }
      expect(d.only()).toMatchObject({
        is: 'position',
        address: { type: 'control14', channel: 2, controller: 7, lowFirst },
      });
      expect(d.only().sure).toBeGreaterThan(0.9);
    },
  );

  it('of two controls whose controllers happen to lie 32 apart stay two', () => {
    const d = device().ask('faders').move(7, ramp(0, 127)).move(39, ramp(0, 127));
    expect(d.found().map((f) => f.key)).toEqual(['control 1 7', 'control 1 39']);
  });

  it('by pitch bend, a channel each', () => {
    const d = device().ask('faders');
    for (const channel of [1, 2])
      for (let value = 0; value <= 16383; value += 409)
        d.say(...midiBytes({ type: 'pitchBend', channel, value })).wait(10);
    expect(d.found().map((f) => [f.address.type, f.address.channel, f.is])).toEqual([
      ['pitchBend', 1, 'position'],
      ['pitchBend', 2, 'position'],
    ]);
  });

  it('by non-registered parameters, with data entry; registered ones are no controls', () => {
    const d = device().ask('knobs');
    d.say(0xb0, 101, 0, 100, 2, 6, 64);
    for (let v = 0; v <= 127; v += 3) d.say(0xb0, 99, 1, 98, 5, 6, v, 38, 0).wait(15);
    expect(d.only()).toMatchObject({
      is: 'position',
      address: { type: 'parameter', channel: 1, parameter: 133 },
    });
  });
});

describe('turns', () => {
  const slow = (right: number, left: number) => [right, right, right, right, left, left, left];
  it.each([
    ['offset', slow(65, 63), [66, 67, 65, 62, 61, 63]],
    ['twos', slow(1, 127), [2, 3, 1, 126, 125, 127]],
    ['signBit', slow(1, 65), [2, 3, 1, 66, 67, 65]],
  ] as const)('in the coding %s, turned both ways, slowly and fast', (coding, slowly, fast) => {
    const f = device()
      .ask('knobs')
      .move(16, [...slowly, ...fast])
      .only();
    expect(f).toMatchObject({ is: 'turn', coding, tells: [] });
    expect(f.sure).toBeGreaterThan(0.9);
  });

  it.each([
    ['offset', [65, 65, 66, 65, 65]],
    ['twos', [1, 1, 2, 1, 1]],
  ] as const)('one way alone is likely %s, and it is asked for the other', (coding, values) => {
    const f = device().ask('knobs').move(16, values).only();
    expect(f).toMatchObject({ is: 'turn', coding, tells: ['oneWay'] });
    expect(f.others.map((o) => o.coding)).toContain('signBit');
  });

  it('of one device are in one coding: what one of them tells holds for those that were turned one way', () => {
    const d = device()
      .ask('knobs')
      .move(16, [1, 1, 1, 1])
      .move(17, [1, 1, 65, 65, 65])
      .move(18, [2, 1, 1, 1]);
    expect(d.found().map((f) => [f.coding, f.tells])).toEqual([
      ['signBit', []],
      ['signBit', []],
      ['signBit', []],
    ]);
  });

  it('by increments and decrements of a non-registered parameter', () => {
    const d = device().ask('knobs');
    for (const controller of [96, 96, 96, 97, 97]) d.say(0xb2, 99, 0, 98, 9, controller, 0).wait(20);
    expect(d.only()).toMatchObject({
      is: 'turn',
      coding: 'increments',
      address: { type: 'parameter', channel: 3, parameter: 9 },
    });
  });
});

describe('keys', () => {
  it('held: on and off', () => {
    const d = device().ask('keys').say(0xb0, 102, 127).wait(120).say(0xb0, 102, 0).wait(300);
    d.say(0x90, 36, 127).wait(90).say(0x80, 36, 64);
    expect(d.found().map((f) => [f.key, f.is, f.toggles, f.release])).toEqual([
      ['control 1 102', 'key', false, 'off'],
      ['note 1 36', 'key', false, 'off'],
    ]);
  });
  it('on at one push and off at the next: it is asked to be pushed again until that is known', () => {
    const d = device().ask('keys').say(0x90, 40, 127).wait(2000);
    expect(d.only()).toMatchObject({ is: 'key', toggles: true, tells: ['pushAgain'] });
    d.say(0x80, 40, 0).wait(2000).say(0x90, 40, 127).wait(1800).say(0x80, 40, 0);
    expect(d.only()).toMatchObject({ is: 'key', toggles: true });
  });
  it('on twice, when pushed and when let go', () => {
    const d = device().ask('keys');
    for (let n = 0; n < 2; n++) d.say(0x90, 40, 127).wait(100).say(0x90, 40, 127).wait(2000);
    expect(d.only()).toMatchObject({ is: 'key', toggles: false, release: 'on' });
  });
  it('on alone, at each push', () => {
    const d = device().ask('keys');
    for (let n = 0; n < 3; n++) d.say(0xb0, 50, 127).wait(2000);
    expect(d.only()).toMatchObject({ is: 'key', toggles: false, release: 'none' });
  });
});

describe('what goes on beside', () => {
  it('a fader that says its touch first has it, and no key is found', () => {
    const d = device().ask('faders');
    for (const k of [0, 1]) {
      d.say(0x90, 104 + k, 127).wait(30);
      d.move(70 + k, ramp(0, 127))
        .say(0x90, 104 + k, 0)
        .wait(300);
    }
    expect(d.found().map((f) => [f.key, f.touch])).toEqual([
      ['control 1 70', { type: 'note', channel: 1, note: 104 }],
      ['control 1 71', { type: 'note', channel: 1, note: 105 }],
    ]);
  });
  it('clock, active sensing, programs, pressure and all notes off are passed by, in the middle of a message too', () => {
    const d = device().ask('faders').say(0xf8, 0xfe, 0xc0, 5, 0xd0, 64, 0xb0, 123, 0);
    for (const v of ramp(0, 127)) d.say(0xb0, 0xf8, 7, 0xfe, v).wait(10);
    expect(d.only()).toMatchObject({ key: 'control 1 7', is: 'position' });
  });
  it('a keyboard that is played gives no keys, neither while faders are asked for nor beside two keys', () => {
    const play = (d: ReturnType<typeof device>) => {
      [60, 64, 67, 72, 59, 62].forEach((n, i) => {
        d.say(0x90, n, 50 + 13 * i)
          .wait(140)
          .say(0x90, n, 0)
          .wait(20);
      });
      return d;
    };
    const d = play(device().ask('faders')).move(7, ramp(0, 127));
    play(d.ask('keys')).say(0xb0, 102, 127).wait(80).say(0xb0, 102, 0).wait(200);
    d.say(0xb0, 103, 127).wait(80).say(0xb0, 103, 0);
    const { found, played } = learn(d.heard, d.steps);
    expect(found.map((f) => f.key)).toEqual(['control 1 7', 'control 1 102', 'control 1 103']);
    expect(played).toBe(6);
  });
  it('a few notes that are struck where keys are asked for, and nothing else, are the keys', () => {
    const d = device().ask('keys');
    for (const n of [48, 50]) d.say(0x90, n, 93).wait(100).say(0x90, n, 0).wait(400);
    const found = d.found();
    expect(found.map((f) => f.key)).toEqual(['note 1 48', 'note 1 50']);
    expect(found.every((f) => f.sure <= 0.5)).toBe(true);
  });
  it('nothing is heard before it is asked for', () => {
    expect(device().move(7, ramp(0, 127)).ask('faders').found()).toEqual([]);
  });
});

describe('what is told', () => {
  it('a move too small to tell', () => {
    const f = device().ask('faders').move(7, [60, 61, 62, 63, 64]).only();
    expect(f.tells).toContain('little');
    expect(f.sure).toBeLessThan(0.6);
    // Moved on, it is told no more.
    const d = device()
      .ask('faders')
      .move(7, [60, 61, 62, 63, 64])
      .move(7, ramp(64, 127))
      .move(7, ramp(127, 0));
    expect(d.only().tells).toEqual([]);
  });
  it('one that runs backwards', () => {
    expect(device().ask('faders').move(7, ramp(127, 0)).only().tells).toEqual(['backwards']);
  });
  it('one that jumps', () => {
    expect(device().ask('faders').move(7, [0, 4, 8, 70, 74, 78, 20, 24, 28]).only().tells).toEqual(['jumps']);
  });
  it('two controls that say the same', () => {
    const d = device().ask('faders').move(7, ramp(0, 127)).move(7, ramp(0, 127));
    expect(d.only().tells).toEqual(['twice']);
  });
  it('a control that is given once more in a later step', () => {
    const d = device().ask('faders').move(7, ramp(0, 127)).ask('knobs').move(7, ramp(127, 0));
    expect(d.only()).toMatchObject({ step: 0, again: 1 });
  });
});

describe('the profile', () => {
  it('of eight faders, eight knobs and two keys: levels, pans, banks', () => {
    const d = device().ask('faders');
    for (let k = 0; k < 8; k++) d.move(20 + k, ramp(0, 127));
    d.ask('knobs');
    for (let k = 0; k < 8; k++) d.move(50 + k, ramp(0, 127));
    d.ask('keys');
    for (const k of [0, 1])
      d.say(0xb0, 102 + k, 127)
        .wait(80)
        .say(0xb0, 102 + k, 0)
        .wait(300);
    const drafts = draftsFrom(learn(d.heard, d.steps), d.steps, {});
    const profile = validProfile(profileFrom(drafts, { id: 'learned', name: 'Learned' }));
    expect(profile.width).toBe(8);
    expect(
      profile.controls.filter((c) => c.kind === 'fader').map((c) => [c.position, c.steers, c.out]),
    ).toEqual(Array.from({ length: 8 }, (_, k) => [k, null, null]));
    expect(
      profile.controls.flatMap((c) => (c.kind === 'encoder' ? [[c.position, c.coding, c.steers?.type]] : [])),
    ).toEqual(Array.from({ length: 8 }, (_, k) => [k, 'position', 'across']));
    expect(profile.controls.flatMap((c) => (c.kind === 'key' ? [c.role] : []))).toEqual([
      'bankLeft',
      'bankRight',
    ]);
  });

  it('keeps what was decided by hand, whatever is heard afterwards', () => {
    const d = device().ask('faders').move(7, ramp(127, 0)).move(8, ramp(0, 127)).move(9, ramp(0, 127));
    const decided = {
      'control 1 7': { reversed: true },
      'control 1 8': {
        steers: { type: 'across', what: 'level', nth: null, of: 'main', strip: null },
      },
      'control 1 9': { out: true },
    } as const;
    d.move(7, ramp(0, 127));
    const drafts = draftsFrom(learn(d.heard, d.steps), d.steps, decided);
    const profile = validProfile(profileFrom(drafts, { id: 'x', name: 'X' }));
    expect(profile.width).toBe(1);
    expect(profile.controls).toMatchObject([
      { kind: 'fader', position: 0, reversed: true, steers: null },
      // Behind the window: it takes no strip's place.
      { kind: 'fader', position: 1, steers: { of: 'main' } },
    ]);
  });

  it('of two controls that say the same there is none, and both are named', () => {
    const d = device().ask('faders').move(7, ramp(0, 127));
    const [draft] = draftsFrom(learn(d.heard, d.steps), d.steps, {});
    const twin = { ...draft!, key: 'other' };
    expect([...clashesOf([draft!, twin])]).toEqual([['other', 'control 1 7']]);
    expect(() => validProfile(profileFrom([draft!, twin], { id: 'x', name: 'X' }))).toThrow(
      /cannot be told apart/,
    );
  });
});
