/**
 * MIDI 1.0 messages and bytes ("MIDI 1.0 Detailed Specification", MMA, document version 4.2: status bytes Table I, control
 * changes Table III, system exclusive and running status chapter 2). Channels are 1..16.
 */
export type MidiMessage =
  | { readonly type: 'noteOn'; readonly channel: number; readonly note: number; readonly velocity: number }
  | { readonly type: 'noteOff'; readonly channel: number; readonly note: number; readonly velocity: number }
  | {
      readonly type: 'polyPressure';
      readonly channel: number;
      readonly note: number;
      readonly pressure: number;
    }
  | {
      readonly type: 'controlChange';
      readonly channel: number;
      readonly controller: number;
      readonly value: number;
    }
  | { readonly type: 'programChange'; readonly channel: number; readonly program: number }
  | { readonly type: 'channelPressure'; readonly channel: number; readonly pressure: number }
  /** value 0..16383, 8192 is the centre */
  | { readonly type: 'pitchBend'; readonly channel: number; readonly value: number }
  /** the bytes between F0 and F7 */
  | { readonly type: 'sysex'; readonly data: readonly number[] };

/** What a parser remembers between pieces of a stream. */
export interface MidiParserState {
  readonly running: number;
  readonly data: readonly number[];
  readonly sysex: boolean;
}

export const MIDI_START: MidiParserState = { running: 0, data: [], sysex: false };
/** A system exclusive message longer than this is dropped. */
export const MOST_SYSEX = 4096;

const lengthOf = (status: number) => ((status & 0xf0) === 0xc0 || (status & 0xf0) === 0xd0 ? 1 : 2);

function channelMessage(status: number, [a = 0, b = 0]: readonly number[]): MidiMessage | null {
  const channel = (status & 0x0f) + 1;
  switch (status & 0xf0) {
    case 0x80:
      return { type: 'noteOff', channel, note: a, velocity: b };
    case 0x90:
      // A note-on of velocity 0 is a note-off: specification, page 10.
      return b === 0
        ? { type: 'noteOff', channel, note: a, velocity: 64 }
        : { type: 'noteOn', channel, note: a, velocity: b };
    case 0xa0:
      return { type: 'polyPressure', channel, note: a, pressure: b };
    case 0xb0:
      return { type: 'controlChange', channel, controller: a, value: b };
    case 0xc0:
      return { type: 'programChange', channel, program: a };
    case 0xd0:
      return { type: 'channelPressure', channel, pressure: a };
    case 0xe0:
      return { type: 'pitchBend', channel, value: (b << 7) | a };
    default:
      return null;
  }
}

/**
 * Reads a piece of a MIDI stream: running status, real-time bytes between any others, system exclusive in pieces.
 * Bytes that belong to nothing are passed over.
 */
export function parseMidi(
  state: MidiParserState,
  bytes: Iterable<number>,
): { readonly messages: readonly MidiMessage[]; readonly state: MidiParserState } {
  const messages: MidiMessage[] = [];
  let { running, sysex } = state;
  let data = [...state.data];
  /** Data bytes still owed to a system common message, which are passed over. */
  let skip = 0;
  for (const byte of bytes) {
    if (byte >= 0xf8) continue;
    if (byte >= 0x80) {
      if (sysex && byte === 0xf7 && data.length <= MOST_SYSEX) messages.push({ type: 'sysex', data });
      sysex = byte === 0xf0;
      data = [];
      // System common and exclusive cancel running status.
      running = byte < 0xf0 ? byte : 0;
      skip = byte === 0xf1 || byte === 0xf3 ? 1 : byte === 0xf2 ? 2 : 0;
      continue;
    }
    if (sysex) {
      if (data.length <= MOST_SYSEX) data.push(byte);
      continue;
    }
    if (skip > 0) {
      skip--;
      continue;
    }
    if (running === 0) continue;
    data.push(byte);
    if (data.length === lengthOf(running)) {
      const message = channelMessage(running, data);
      if (message) messages.push(message);
      data = [];
    }
  }
  return { messages, state: { running, data, sysex } };
}

const seven = (n: number) => Math.max(0, Math.min(127, Math.round(n)));

/** The bytes of a message, with its status byte. */
export function midiBytes(m: MidiMessage): readonly number[] {
  const status = (high: number, channel: number) => high | ((channel - 1) & 0x0f);
  switch (m.type) {
    case 'noteOn':
      return [status(0x90, m.channel), seven(m.note), seven(m.velocity)];
    case 'noteOff':
      return [status(0x80, m.channel), seven(m.note), seven(m.velocity)];
    case 'polyPressure':
      return [status(0xa0, m.channel), seven(m.note), seven(m.pressure)];
    case 'controlChange':
      return [status(0xb0, m.channel), seven(m.controller), seven(m.value)];
    case 'programChange':
      return [status(0xc0, m.channel), seven(m.program)];
    case 'channelPressure':
      return [status(0xd0, m.channel), seven(m.pressure)];
    case 'pitchBend': {
      const v = Math.max(0, Math.min(16383, Math.round(m.value)));
      return [status(0xe0, m.channel), v & 0x7f, v >> 7];
    }
    case 'sysex':
      return [0xf0, ...m.data.map((d) => d & 0x7f), 0xf7];
  }
}

/**
 * A 14-bit control change: controllers 0..31 carry the upper seven bits, 32..63 the lower ones of the same
 * (specification, Table III). The upper is sent first.
 */
export function control14(channel: number, controller: number, value: number): readonly number[] {
  const v = Math.max(0, Math.min(16383, Math.round(value)));
  return [
    ...midiBytes({ type: 'controlChange', channel, controller, value: v >> 7 }),
    ...midiBytes({ type: 'controlChange', channel, controller: controller + 32, value: v & 0x7f }),
  ];
}
