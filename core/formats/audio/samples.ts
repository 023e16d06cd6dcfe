/** How samples stand in a file of somebody else's. */
export interface SampleFormat {
  readonly kind: 'int' | 'float';
  /** Bytes that one takes. Fewer bits than they hold stand at the top of them. */
  readonly bytes: 1 | 2 | 3 | 4 | 8;
  readonly bigEndian: boolean;
  /** Whether silence is the middle of what the bytes count, and not 0. */
  readonly unsigned: boolean;
}

/** How samples are kept: little-endian whole numbers of 16, 24 and 32 bits, and floats of IEC 60559, binary32. */
export type Depth = 's16' | 's24' | 's32' | 'f32';
export const DEPTHS: readonly Depth[] = ['s16', 's24', 's32', 'f32'];
const BYTES: Record<Depth, 2 | 3 | 4> = { s16: 2, s24: 3, s32: 4, f32: 4 };
/** Bytes of a sample. */
export const depthBytes = (depth: Depth): 2 | 3 | 4 => BYTES[depth];

/** How samples of a file are kept: nothing of them is lost, but of doubles what floats cannot hold. */
export const depthOf = ({ kind, bytes }: SampleFormat): Depth =>
  kind === 'float' ? 'f32' : bytes <= 2 ? 's16' : bytes === 3 ? 's24' : 's32';

/** IEC 60559: a binary32 number whose exponent bits are all set is infinite or no number. */
const EXPONENT = 0x7f800000;
/** Sets what is no finite number to 0. Every host of WebAssembly is little-endian, as the file is. */
export function silenceNonFinite(audio: Float32Array): void {
  const bits = new Int32Array(audio.buffer, audio.byteOffset, audio.length);
  for (let i = 0; i < bits.length; i++) if ((bits[i]! & EXPONENT) === EXPONENT) bits[i] = 0;
}

/** A file's bytes, whole samples, as they are kept. A float that is not finite becomes 0. @returns the same bytes where nothing changes */
export function keptBytes(from: Uint8Array, format: SampleFormat): Uint8Array {
  const { kind, bytes, bigEndian, unsigned } = format;
  if (kind === 'int' && !bigEndian && !unsigned && bytes > 1) return from;
  const count = Math.floor(from.length / bytes);
  const to = new Uint8Array(count * depthBytes(depthOf(format)));
  if (kind === 'float') {
    const floats = new Float32Array(to.buffer);
    if (bytes === 4 && !bigEndian) to.set(from.subarray(0, to.length));
    else {
      const view = new DataView(from.buffer, from.byteOffset, from.byteLength);
      for (let i = 0; i < count; i++)
        floats[i] = bytes === 8 ? view.getFloat64(i * 8, !bigEndian) : view.getFloat32(i * bytes, !bigEndian);
    }
    silenceNonFinite(floats);
    return to;
  }
  if (bytes === 1) for (let i = 0; i < count; i++) to[i * 2 + 1] = unsigned ? from[i]! ^ 0x80 : from[i]!;
  else
    for (let i = 0; i < count * bytes; i += bytes)
      for (let b = 0; b < bytes; b++) to[i + b] = from[bigEndian ? i + bytes - 1 - b : i + b]!;
  return to;
}

/** Kept samples as floats in -1..+1. Of 32 bits the lowest eight are rounded. */
export function floatsOf(kept: Uint8Array, depth: Depth): Float32Array<ArrayBuffer> {
  const size = depthBytes(depth);
  const count = Math.floor(kept.length / size);
  const out = new Float32Array(count);
  if (depth === 'f32') {
    new Uint8Array(out.buffer).set(kept.subarray(0, count * 4));
    return out;
  }
  if (depth === 's24') {
    for (let i = 0, at = 0; i < count; i++, at += 3)
      out[i] = ((kept[at]! << 8) | (kept[at + 1]! << 16) | (kept[at + 2]! << 24)) / 2147483648;
    return out;
  }
  // Numbers want to stand at a multiple of their size.
  const ints = numbersOf(kept.byteOffset % size === 0 ? kept : kept.slice(), depth);
  const full = FULL[depth];
  for (let i = 0; i < count; i++) out[i] = ints[i]! / full;
  return out;
}

/**
 * One channel of kept samples, interleaved, as floats.
 * @param kept from a multiple of a sample's size on
 * @param from frame
 * @returns how many frames were there; what is behind them is left as it was
 */
export function channelInto(
  {
    bytes,
    depth,
    channels,
  }: { readonly bytes: Uint8Array; readonly depth: Depth; readonly channels: number },
  channel: number,
  from: number,
  into: Float32Array,
): number {
  const count = Math.max(0, Math.min(into.length, Math.floor(bytes.length / BYTES[depth] / channels) - from));
  let at = from * channels + channel;
  if (depth === 's24') {
    at *= 3;
    for (let i = 0; i < count; i++, at += 3 * channels)
      into[i] = ((bytes[at]! << 8) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 24)) / 2147483648;
    return count;
  }
  const numbers = numbersOf(bytes, depth);
  const full = FULL[depth];
  for (let i = 0; i < count; i++, at += channels) into[i] = numbers[at]! / full;
  return count;
}

/** Kept samples as numbers, where they are whole ones of a size that numbers have. */
const numbersOf = (kept: Uint8Array, depth: Exclude<Depth, 's24'>) => {
  const count = Math.floor(kept.length / BYTES[depth]);
  if (depth === 's16') return new Int16Array(kept.buffer, kept.byteOffset, count);
  return depth === 's32'
    ? new Int32Array(kept.buffer, kept.byteOffset, count)
    : new Float32Array(kept.buffer, kept.byteOffset, count);
};
const FULL: Record<Depth, number> = { s16: 32768, s24: 8388608, s32: 2147483648, f32: 1 };

/**
 * Gives the highest amplitude of so many kept samples, again and again.
 * @param kept from a multiple of four bytes on
 * @returns of the samples from one to another, not counting the last
 */
export function peaksOf(kept: Uint8Array, depth: Depth): (from: number, to: number) => number {
  const full = FULL[depth];
  if (depth === 's24')
    return (from, to) => {
      let most = 0;
      let least = 0;
      for (let i = from * 3; i < to * 3; i += 3) {
        const v = ((kept[i]! << 8) | (kept[i + 1]! << 16) | (kept[i + 2]! << 24)) >> 8;
        if (v > most) most = v;
        else if (v < least) least = v;
      }
      return Math.max(most, -least) / full;
    };
  return highest(numbersOf(kept, depth), full);
}
const highest =
  (all: Int16Array | Int32Array | Float32Array, full: number) =>
  (from: number, to: number): number => {
    let most = 0;
    let least = 0;
    for (let i = from; i < to; i++) {
      const v = all[i]!;
      if (v > most) most = v;
      else if (v < least) least = v;
    }
    return Math.max(most, -least) / full;
  };
