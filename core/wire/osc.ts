import { fromBuffer, timetagToDate, toBuffer, type OscArgOrArrayInput, type OscPacketOutput } from 'osc-min';

/**
 * Packets of Open Sound Control 1.0 (Wright, "The Open Sound Control 1.0 Specification", 2002), of the types i, f, s, T, F and N.
 * The package osc-min knows the encoding; what a packet says of its own sizes is judged here first, as that package passes over
 * what is cut and follows nesting to any depth.
 */
export type OscArgument = number | string | boolean | null;

export interface OscMessage {
  readonly address: string;
  /** Numbers go as float32; those that come as int32 are not told from them. */
  readonly args: readonly OscArgument[];
}
/** Messages that belong together, and when they are meant to happen; null is at once. */
export interface OscBundle {
  /** Milliseconds since 1970. */
  readonly at: number | null;
  readonly elements: readonly OscPacket[];
}
export type OscPacket = OscMessage | OscBundle;
export const isBundle = (p: OscPacket): p is OscBundle => 'elements' in p;

/** How deep bundles may lie in each other. */
export const MOST_NESTED = 8;
/** "#bundle" and its zero. */
const BUNDLE = [0x23, 0x62, 0x75, 0x6e, 0x64, 0x6c, 0x65, 0];
/** The time tag that says "immediately" (specification, "OSC Time Tag"). */
const AT_ONCE: [number, number] = [0, 1];

const asArgument = (value: OscArgument): OscArgOrArrayInput => {
  if (typeof value === 'number') return { type: 'float', value };
  // A text is a text, whatever it says: a bare `bang` would be another type.
  return typeof value === 'string' ? { type: 'string', value: value.replace(/\0/g, '') } : value;
};

const bytesOf = ({ buffer, byteOffset, byteLength }: DataView): Uint8Array<ArrayBuffer> =>
  new Uint8Array(buffer as ArrayBuffer, byteOffset, byteLength);

type Input = Parameters<typeof toBuffer>[0];
const asInput = (packet: OscPacket): Input => {
  if (isBundle(packet))
    return {
      oscType: 'bundle',
      timetag: packet.at === null ? AT_ONCE : new Date(packet.at),
      elements: packet.elements.map(asInput),
    } as Input;
  if (!/^\/[\x21-\x7e]*$/.test(packet.address))
    throw new RangeError(`\`${packet.address}\` is no OSC address.`);
  return { address: packet.address, args: packet.args.map(asArgument) };
};

/** @throws RangeError for an address that does not begin with a slash, or is not plain ASCII */
export const encodeOsc = (packet: OscPacket): Uint8Array<ArrayBuffer> => bytesOf(toBuffer(asInput(packet)));

/** @returns why the sizes that a packet tells of itself cannot be; null where they can */
function misframed(bytes: Uint8Array, depth = 0): string | null {
  if (bytes.length === 0 || bytes.length % 4 !== 0) return 'its size is not a multiple of four';
  if (!BUNDLE.every((b, i) => bytes[i] === b)) return null;
  if (depth >= MOST_NESTED) return `its bundles lie more than ${MOST_NESTED} deep`;
  if (bytes.length < 16) return 'a bundle has no time tag';
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 16; at < bytes.length;) {
    const size = view.getInt32(at);
    if (size < 0 || at + 4 + size > bytes.length) return 'an element is longer than the packet';
    const inside = misframed(bytes.subarray(at + 4, at + 4 + size), depth + 1);
    if (inside) return inside;
    at += 4 + size;
  }
  return null;
}

function read(packet: OscPacketOutput): OscPacket {
  if (packet.oscType === 'bundle') {
    const [seconds, fraction] = packet.timetag;
    return {
      at: seconds === 0 && fraction <= 1 ? null : timetagToDate(packet.timetag).getTime(),
      elements: packet.elements.map(read),
    };
  }
  return {
    address: packet.address,
    args: packet.args.map((a): OscArgument => {
      switch (a.type) {
        case 'float':
        case 'integer':
        case 'string':
          return a.value;
        case 'true':
        case 'false':
          return a.type === 'true';
        case 'null':
          return null;
        default:
          throw new RangeError(`the type ${a.type} is not known here`);
      }
    }),
  };
}
const counted = (p: { elements?: readonly unknown[] }): number =>
  p.elements ? p.elements.reduce((n: number, e) => n + counted(e as typeof p), 1) : 1;
/** Elements that the bytes hold, bundles counted with what lies in them. */
function framed(bytes: Uint8Array): number {
  if (!BUNDLE.every((b, i) => bytes[i] === b)) return 1;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let n = 1;
  for (let at = 16; at < bytes.length;) {
    const size = view.getInt32(at);
    n += framed(bytes.subarray(at + 4, at + 4 + size));
    at += 4 + size;
  }
  return n;
}

/** Reads a packet: all of it, or nothing. @throws RangeError that says why it is none, as an end of a sentence */
export function readOsc(bytes: Uint8Array): OscPacket {
  const why = misframed(bytes);
  if (why) throw new RangeError(why);
  let packet: OscPacketOutput;
  try {
    packet = fromBuffer(bytes);
  } catch (error) {
    throw new RangeError((error as Error).message, { cause: error });
  }
  // The package leaves out of a bundle what it cannot read.
  if (counted(packet as { elements?: readonly unknown[] }) !== framed(bytes))
    throw new RangeError('an element of a bundle cannot be read');
  return read(packet);
}

/** @returns null for what is no OSC message */
export function decodeOsc(bytes: Uint8Array): OscMessage | null {
  try {
    const packet = readOsc(bytes);
    return isBundle(packet) ? null : packet;
  } catch {
    return null;
  }
}
