/**
 * Messages of Open Sound Control 1.0 (Wright, "The Open Sound Control 1.0 Specification", 2002): an address pattern, a type
 * tag string, and arguments, each filled up to four bytes, big-endian. Types i, f, s, T and F.
 */
export type OscArgument = number | string | boolean;

export interface OscMessage {
  readonly address: string;
  /** Whole numbers go as int32 where they are asked to; all others as float32. */
  readonly args: readonly OscArgument[];
}

const padded = (n: number) => (n + 4) & ~3;

/** @throws RangeError for an address that does not begin with a slash, or is not plain ASCII */
export function encodeOsc({ address, args }: OscMessage): Uint8Array<ArrayBuffer> {
  if (!/^\/[\x21-\x7e]*$/.test(address)) throw new RangeError(`\`${address}\` is no OSC address.`);
  const tags = `,${args.map((a) => (typeof a === 'string' ? 's' : typeof a === 'boolean' ? (a ? 'T' : 'F') : 'f')).join('')}`;
  const texts = args
    .filter((a): a is string => typeof a === 'string')
    .map((t) => new TextEncoder().encode(t));
  const numbers = args.filter((a) => typeof a === 'number').length;
  const out = new Uint8Array(
    padded(address.length) +
      padded(tags.length) +
      numbers * 4 +
      texts.reduce((n, t) => n + padded(t.length), 0),
  );
  const view = new DataView(out.buffer);
  out.set(new TextEncoder().encode(address), 0);
  let at = padded(address.length);
  out.set(new TextEncoder().encode(tags), at);
  at += padded(tags.length);
  for (const a of args) {
    if (typeof a === 'number') {
      view.setFloat32(at, a);
      at += 4;
    } else if (typeof a === 'string') {
      const bytes = texts.shift()!;
      out.set(bytes, at);
      at += padded(bytes.length);
    }
  }
  return out;
}

/** @returns null for what is no OSC message, or holds types that are not known here */
export function decodeOsc(bytes: Uint8Array): OscMessage | null {
  // A packet's size is a multiple of four.
  if (bytes.length % 4 !== 0) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 0;
  const text = (): string | null => {
    let end = at;
    while (end < bytes.length && bytes[end] !== 0) end++;
    if (end >= bytes.length) return null;
    const t = new TextDecoder().decode(bytes.subarray(at, end));
    at += padded(end - at);
    return t;
  };
  const address = text();
  if (address === null || !address.startsWith('/')) return null;
  const tags = at < bytes.length ? text() : ',';
  if (!tags?.startsWith(',')) return null;
  const args: OscArgument[] = [];
  for (const tag of tags.slice(1)) {
    if (tag === 'T' || tag === 'F') args.push(tag === 'T');
    else if (tag === 's') {
      const t = text();
      if (t === null) return null;
      args.push(t);
    } else if (tag === 'f' || tag === 'i') {
      if (at + 4 > bytes.length) return null;
      args.push(tag === 'f' ? view.getFloat32(at) : view.getInt32(at));
      at += 4;
    } else return null;
  }
  return { address, args };
}
