import fc from 'fast-check';
import MidiParser from 'midi-parser-js';
import { describe, expect, it } from 'vitest';
import { control14, midiBytes, MIDI_START, MOST_SYSEX, parseMidi, type MidiMessage } from './midi';

const parse = (...bytes: number[]) => parseMidi(MIDI_START, bytes).messages;

describe('MIDI 1.0 bytes', () => {
  // Status bytes from the MIDI 1.0 Detailed Specification, Table I ("Summary of Status Bytes").
  it.each<[MidiMessage, number[]]>([
    [{ type: 'noteOff', channel: 1, note: 60, velocity: 64 }, [0x80, 60, 64]],
    [{ type: 'noteOn', channel: 16, note: 60, velocity: 100 }, [0x9f, 60, 100]],
    [{ type: 'polyPressure', channel: 2, note: 61, pressure: 5 }, [0xa1, 61, 5]],
    [{ type: 'controlChange', channel: 1, controller: 7, value: 127 }, [0xb0, 7, 127]],
    [{ type: 'programChange', channel: 3, program: 9 }, [0xc2, 9]],
    [{ type: 'channelPressure', channel: 4, pressure: 33 }, [0xd3, 33]],
    [{ type: 'sysex', data: [0x7d, 1, 2] }, [0xf0, 0x7d, 1, 2, 0xf7]],
  ])('of %j', (message, bytes) => {
    expect(midiBytes(message)).toEqual(bytes);
    expect(parse(...bytes)).toEqual([message]);
  });

  // Pitch bend carries its lower seven bits first; 00 40 is the centre, 8192 (specification, "Pitch Bend Change").
  it.each([
    [8192, 0x00, 0x40],
    [0, 0x00, 0x00],
    [16383, 0x7f, 0x7f],
  ])('of a pitch bend of %s', (value, low, high) => {
    expect(midiBytes({ type: 'pitchBend', channel: 1, value })).toEqual([0xe0, low, high]);
    expect(parse(0xe0, low, high)).toEqual([{ type: 'pitchBend', channel: 1, value }]);
  });

  // Controllers 0..31 are the upper, 32..63 the lower seven bits of one value (specification, Table III).
  it('of a 14-bit control change', () => {
    expect(control14(1, 7, 0x1234)).toEqual([0xb0, 7, 0x24, 0xb0, 39, 0x34]);
    expect(control14(16, 20, 16383)).toEqual([0xbf, 20, 127, 0xbf, 52, 127]);
  });
});

describe('a MIDI stream', () => {
  it('with running status needs no further status bytes (specification, "Running Status")', () => {
    expect(parse(0x90, 60, 100, 62, 90, 60, 0)).toEqual([
      { type: 'noteOn', channel: 1, note: 60, velocity: 100 },
      { type: 'noteOn', channel: 1, note: 62, velocity: 90 },
      { type: 'noteOff', channel: 1, note: 60, velocity: 64 },
    ]);
  });
  it('may have real-time bytes anywhere, also inside others', () => {
    expect(parse(0xf8, 0xb0, 0xfe, 7, 0xf8, 100, 0xf0, 1, 0xf8, 2, 0xf7)).toEqual([
      { type: 'controlChange', channel: 1, controller: 7, value: 100 },
      { type: 'sysex', data: [1, 2] },
    ]);
  });
  it('loses its running status to a system message, and passes over what belongs to nothing', () => {
    expect(parse(5, 6, 0x90, 60, 100, 0xf3, 1, 62, 90, 0xf2, 1, 2, 0xb0, 1, 2)).toEqual([
      { type: 'noteOn', channel: 1, note: 60, velocity: 100 },
      { type: 'controlChange', channel: 1, controller: 1, value: 2 },
    ]);
  });
  it('drops a system exclusive message that is broken off or far too long', () => {
    expect(parse(0xf0, 1, 2, 0x90, 60, 1)).toEqual([{ type: 'noteOn', channel: 1, note: 60, velocity: 1 }]);
    expect(parse(0xf0, ...Array.from({ length: MOST_SYSEX + 10 }, () => 1), 0xf7)).toEqual([]);
  });

  const message = fc.oneof(
    fc.record({
      type: fc.constant('noteOn' as const),
      channel: fc.integer({ min: 1, max: 16 }),
      note: fc.nat(127),
      velocity: fc.integer({ min: 1, max: 127 }),
    }),
    fc.record({
      type: fc.constant('controlChange' as const),
      channel: fc.integer({ min: 1, max: 16 }),
      controller: fc.nat(119),
      value: fc.nat(127),
    }),
    fc.record({
      type: fc.constant('pitchBend' as const),
      channel: fc.integer({ min: 1, max: 16 }),
      value: fc.nat(16383),
    }),
    fc.record({ type: fc.constant('sysex' as const), data: fc.array(fc.nat(127), { maxLength: 20 }) }),
  );
  it('may be cut anywhere', () => {
    fc.assert(
      fc.property(
        fc.array(message, { maxLength: 12 }),
        fc.array(fc.integer({ min: 1, max: 9 })),
        (messages, cuts) => {
          const bytes = messages.flatMap((m) => [...midiBytes(m)]);
          let state = MIDI_START;
          const got: MidiMessage[] = [];
          let at = 0;
          for (const n of [...cuts, bytes.length]) {
            const piece = parseMidi(state, bytes.slice(at, at + n));
            got.push(...piece.messages);
            state = piece.state;
            at += n;
          }
          expect(got).toEqual(messages);
        },
      ),
    );
  });

  it('in a file track is read the same by the npm package midi-parser-js, running status included', () => {
    const events = [0, 0x90, 60, 100, 10, 62, 90, 5, 0xb2, 7, 33, 3, 39, 5, 1, 0xe4, 0x11, 0x22];
    const end = [0, 0xff, 0x2f, 0];
    const track = [...events, ...end];
    const u32 = (n: number) => [n >>> 24, (n >> 16) & 255, (n >> 8) & 255, n & 255];
    const file = new Uint8Array(
      [...'MThd']
        .map((c) => c.charCodeAt(0))
        .concat(
          u32(6),
          [0, 0, 0, 1, 0, 96],
          [...'MTrk'].map((c) => c.charCodeAt(0)),
          u32(track.length),
          track,
        ),
    );
    const theirs = (
      MidiParser.parse(file) as {
        track: { event: { type: number; channel: number; data: number[] | number }[] }[];
      }
    ).track[0]!.event.filter((e) => e.type !== 255);
    // The delta times of the file stand between the messages; without them the stream is what a cable carries.
    const stream = [0x90, 60, 100, 62, 90, 0xb2, 7, 33, 39, 5, 0xe4, 0x11, 0x22];
    const ours = parseMidi(MIDI_START, stream).messages;
    expect(ours.length).toBe(theirs.length);
    ours.forEach((m, i) => {
      const e = theirs[i]!;
      expect(e.channel).toBe('channel' in m ? m.channel - 1 : -1);
      const bytes = midiBytes(m);
      expect(e.type).toBe(bytes[0]! >> 4);
      if (Array.isArray(e.data)) expect(e.data).toEqual(bytes.slice(1));
    });
  });
});
