import {
  afterChunk,
  ascii,
  checkChannels,
  checkRate,
  chunkId,
  cut,
  FactsBehind,
  no,
  type AudioFacts,
} from './facts';
import type { SampleFormat } from './samples';

/** How samples of AIFF-C are encoded, as far as nothing is lost: kind, bytes where they do not follow from the bits, order. */
const ENCODINGS: Record<
  string,
  { kind: 'int' | 'float'; bytes?: SampleFormat['bytes']; little?: boolean; unsigned?: boolean }
> = {
  NONE: { kind: 'int' },
  twos: { kind: 'int' },
  sowt: { kind: 'int', little: true },
  'raw ': { kind: 'int', bytes: 1, unsigned: true },
  in24: { kind: 'int', bytes: 3 },
  in32: { kind: 'int', bytes: 4 },
  fl32: { kind: 'float', bytes: 4 },
  FL32: { kind: 'float', bytes: 4 },
  fl64: { kind: 'float', bytes: 8 },
  FL64: { kind: 'float', bytes: 8 },
};

type Common = Pick<AudioFacts, 'format' | 'channels' | 'sampleRate'> & { readonly frames: number };

/** A number of IEEE 754's extended precision: a sign, 15 bits of exponent, 64 of a mantissa whose first is written out. */
function extended(view: DataView, at: number): number {
  const sign = view.getUint16(at, false);
  const mantissa = Number(view.getBigUint64(at + 2, false));
  return (sign & 0x8000 ? -1 : 1) * mantissa * 2 ** ((sign & 0x7fff) - 16383 - 63);
}

/**
 * Reads the chunks before the audio of an AIFF or AIFF-C file: "Audio Interchange File Format: AIFF" 1.3 (1989) and "AIFF-C" draft
 * (1991).
 * @param head the file from its first byte, twelve at least
 * @returns facts, or null where `head` does not reach the audio yet
 * @throws Refusal `audio` saying what is wrong with the file
 * @throws FactsBehind where its chunks stand in another order, as they may: then `readFactsBehind` tells
 */
export function readAiffHeader(head: Uint8Array): AudioFacts | null {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const kind = ascii(view, 8);
  if (kind !== 'AIFF' && kind !== 'AIFC')
    throw no(`it is a file of the form \`${kind.replace(/[^\x20-\x7e]/g, '?')}\`, which is no audio`);
  let common: Common | null = null;
  let at = 12;
  while (at + 8 <= head.length) {
    const id = chunkId(view, at);
    const size = view.getUint32(at + 4, false);
    if (id === 'COMM') {
      const least = kind === 'AIFC' ? 22 : 18;
      if (size < least) throw no(`its common chunk holds ${size} bytes where ${least} are the least`);
      if (at + 8 + size > head.length) {
        if (size > 4096) throw no(`its common chunk lies about its size: ${size} bytes`);
        return null;
      }
      common = readCommon(view, at + 8, kind === 'AIFC');
    }
    if (id === 'SSND') {
      if (at + 16 > head.length) return null;
      if (!common)
        throw new FactsBehind(
          head.slice(0, 12),
          head.slice(at, at + 16),
          at + 16,
          at + 8 + size + (size & 1),
        );
      const offset = view.getUint32(at + 8, false);
      const bytes = common.frames * common.channels * common.format.bytes;
      if (bytes === 0) throw no('it holds no audio');
      if (size < 8 + offset + bytes)
        throw no(`it says ${common.frames} frames, and its sound chunk of ${size} bytes does not hold them`);
      return { ...common, mask: null, begins: null, dataOffset: at + 16 + offset, flac: null };
    }
    at = afterChunk(at, id, size);
  }
  return null;
}

/**
 * Reads what tells of the audio of a file behind it.
 * @param behind where it is
 * @param tail what stands there, as far as it is there, of 4 MB at the most
 * @throws Refusal `cut` where nothing of it is there, `audio` saying what is wrong with it
 */
export function readFactsBehind(behind: FactsBehind, tail: Uint8Array): AudioFacts {
  const { form, sound, dataOffset } = behind;
  const view = new DataView(tail.buffer, tail.byteOffset, tail.byteLength);
  for (let at = 0; at + 8 <= tail.length;) {
    const id = chunkId(view, at);
    const next = afterChunk(at, id, view.getUint32(at + 4, false));
    if (id === 'COMM') {
      // Read as where it stands before.
      const turned = new Uint8Array(form.length + next - at + sound.length);
      turned.set(form);
      turned.set(tail.subarray(at, next), form.length);
      turned.set(sound, form.length + next - at);
      if (next > tail.length + 1) break;
      const facts = readAiffHeader(turned)!;
      return { ...facts, dataOffset: facts.dataOffset - turned.length + dataOffset };
    }
    at = next;
  }
  throw cut('it ends before what tells of its audio, which stands behind it');
}

function readCommon(view: DataView, at: number, compressed: boolean): Common {
  const channels = checkChannels(view.getUint16(at, false));
  const frames = view.getUint32(at + 2, false);
  const bits = view.getUint16(at + 6, false);
  const sampleRate = checkRate(extended(view, at + 8));
  const name = compressed ? ascii(view, at + 18) : 'NONE';
  const encoding = ENCODINGS[name];
  if (!encoding)
    throw no(
      `its samples are encoded as \`${name.replace(/[^\x20-\x7e]/g, '?')}\`; Zonula takes whole numbers of 8 to 32 bits and floats of 32 and 64`,
    );
  if (bits < 1 || bits > (encoding.kind === 'float' ? 64 : 32))
    throw no(`its samples are said to be of ${bits} bits`);
  const bytes = encoding.bytes ?? (Math.ceil(bits / 8) as SampleFormat['bytes']);
  const format: SampleFormat = {
    kind: encoding.kind,
    bytes,
    bigEndian: !encoding.little,
    unsigned: encoding.unsigned ?? false,
  };
  return { format, channels, frames, sampleRate };
}
