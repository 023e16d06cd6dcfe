import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { control14, midiBytes } from '../wire/midi';
import { decode, stepsOf } from './decode';
import { MONITOR_START, namesOfInput, namesOfOutput } from './monitor';
import { simulatedDesk } from './stands/motorFaders';
import { simulatedEncoders } from './stands/wideEncoders';
import { validProfile } from './profile/validProfile';
import { UNIT_START, type UnitState } from './state';
import type { MidiMessage } from '../wire/midi';

const read = (bytes: readonly number[], profile = simulatedDesk) =>
  namesOfInput(profile, MONITOR_START, bytes).names;

describe('the monitor names what came', () => {
  it.each([
    [control14(16, 22, 8123), 'fader 3 → 8123'],
    [midiBytes({ type: 'noteOn', channel: 15, note: 3, velocity: 127 }), 'key mute 4 down'],
    [midiBytes({ type: 'noteOff', channel: 15, note: 3, velocity: 0 }), 'key mute 4 up'],
    [midiBytes({ type: 'noteOn', channel: 16, note: 21, velocity: 127 }), 'fader 2 touched'],
    [midiBytes({ type: 'controlChange', channel: 15, controller: 70, value: 61 }), 'encoder 1 −3'],
    [midiBytes({ type: 'noteOn', channel: 15, note: 42, velocity: 127 }), 'encoder 3 down'],
    [[0xb0, 1, 2], '? controller 1 → 2, channel 1'],
    [[0xf0, 1, 2, 3, 0xf7], '? system exclusive, 3 bytes'],
  ])('%j', (bytes, name) => expect(read(bytes)).toEqual([name]));
  it('of several rows, with the row', () =>
    expect(
      read(midiBytes({ type: 'controlChange', channel: 11, controller: 19, value: 2 }), simulatedEncoders),
    ).toEqual(['encoder 4 of row 3 +2']));
  it('a message in two pieces is told once it is there', () => {
    const [a, b] = [control14(16, 20, 4000).slice(0, 4), control14(16, 20, 4000).slice(4)];
    const first = namesOfInput(simulatedDesk, MONITOR_START, a);
    expect(first.names).toEqual([]);
    expect(namesOfInput(simulatedDesk, first.state, b).names).toEqual(['fader 1 → 4000']);
  });
  it('and what is sent', () => {
    const told = namesOfOutput(simulatedDesk, MONITOR_START, [
      ...control14(16, 20, 4000),
      ...midiBytes({ type: 'noteOn', channel: 15, note: 0, velocity: 127 }),
      ...midiBytes({ type: 'sysex', data: [125, 90, 1, 1, 82, 105, 109, 32, 32, 32, 32] }),
    ]);
    expect(told.names).toEqual(['fader 1 to 4000', 'key mute 1 light 127', 'display name 2 “Rim”']);
  });
  it('never fails, whatever the bytes', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 60 }), (bytes) => {
        namesOfInput(simulatedDesk, MONITOR_START, bytes);
        namesOfOutput(simulatedDesk, MONITOR_START, bytes);
      }),
    ));
});

describe('codings of endless encoders', () => {
  // Common practice, no published source: 64 is the middle; two's complement of seven bits; bit 6 is the sign.
  it.each([
    ['offset', 65, 1],
    ['offset', 60, -4],
    ['twos', 1, 1],
    ['twos', 127, -1],
    ['signBit', 3, 3],
    ['signBit', 67, -3],
  ] as const)('%s: %i is %i', (coding, value, steps) => expect(stepsOf(coding, value)).toBe(steps));
});

// "MIDI 1.0 Detailed Specification", MMA, 4.2: a non-registered parameter is named by controllers 99 and 98, its value comes by 6 and 38;
// 101 and 100 name a registered one, after which data entry is no longer of the first.
describe('a non-registered parameter', () => {
  const profile = validProfile({
    format: 'zonula-surface',
    version: 2,
    id: 'n',
    name: 'N',
    width: 1,
    controls: [
      { id: 'f', kind: 'fader', position: 0, in: { type: 'parameter', channel: 2, parameter: 300 } },
    ],
  });
  const run = (changes: readonly (readonly [number, number])[]) => {
    let unit: UnitState = UNIT_START;
    const values: number[] = [];
    for (const [controller, value] of changes) {
      const m: MidiMessage = { type: 'controlChange', channel: 2, controller, value };
      const found = decode(profile, unit, m);
      unit = found.unit;
      if (found.heard) values.push(found.heard.value);
    }
    return values;
  };
  const NAMED = [
    [99, 2],
    [98, 44],
  ] as const;
  it('is read in fourteen bits', () =>
    expect(run([...NAMED, [6, 64], [38, 5]])).toEqual([64 << 7, (64 << 7) | 5]));
  it('goes on with data entry alone, while it stays named', () =>
    expect(run([...NAMED, [6, 1], [6, 2], [6, 3]])).toEqual([128, 256, 384]));
  it('is not moved by what was said of another, or of a registered one', () => {
    expect(
      run([
        [99, 2],
        [98, 45],
        [6, 64],
      ]),
    ).toEqual([]);
    expect(run([...NAMED, [101, 0], [100, 0], [6, 64]])).toEqual([]);
  });
  it('and its answer says the same', () => {
    const value = 9000;
    expect(run([...NAMED, [6, value >> 7], [38, value & 127]]).at(-1)).toBe(value);
  });
});
