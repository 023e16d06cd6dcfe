import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { whole } from '../../testing/whole';
import { readFactsBehind } from './aiff';
import { AudioStream } from './audioFile';
import { FactsBehind, type AudioFacts } from './facts';
import { depthBytes, depthOf, floatsOf, peaksOf, type Depth } from './samples';
import { wavHeader } from './wav';

/** What is kept of a file that comes in pieces of so many bytes. */
async function read(file: Uint8Array, piece = file.length) {
  try {
    return await readOnce(file, piece);
  } catch (error) {
    if (!(error instanceof FactsBehind)) throw error;
    return readOnce(file, piece, readFactsBehind(error, file.subarray(error.next)));
  }
}
async function readOnce(file: Uint8Array, piece: number, told: AudioFacts | null = null) {
  const stream = new AudioStream(false, told);
  const kept: number[] = [];
  for (let at = 0; at < file.length; at += piece)
    kept.push(...(await whole(stream.push(file.slice(at, at + piece)))));
  kept.push(...(await whole(stream.end())));
  const facts = stream.facts!;
  return { facts, depth: depthOf(facts.format), kept: Uint8Array.from(kept) };
}
/** Kept whole numbers, as they are. */
function numbers(kept: Uint8Array, depth: Depth): number[] {
  const size = depthBytes(depth);
  return Array.from({ length: kept.length / size }, (_, i) => Buffer.from(kept).readIntLE(i * size, size));
}
const wave = (bits: number, count: number) => {
  const full = 2 ** (bits - 1);
  return Array.from({ length: count }, (_, i) =>
    i === 0 ? -full : i === 1 ? full - 1 : Math.round(Math.sin(i * 0.3) * (full - 1)),
  );
};

// Against the npm package wavefile, which writes them.
describe('kinds of WAV files', () => {
  it.each([
    ['8', 's16', 8],
    ['12', 's16', 4],
    ['16', 's16', 0],
    ['20', 's24', 4],
    ['24', 's24', 0],
    ['32', 's32', 0],
  ] as const)('of %s bits are kept as %s, bit by bit', async (bits, depth, up) => {
    const wanted = wave(Number(bits), 301);
    const wav = new WaveFile();
    // In eight bits silence is 128: "Data Format of the Samples" of the specification.
    wav.fromScratch(1, 48000, bits, bits === '8' ? wanted.map((v) => v + 128) : wanted);
    const got = await read(wav.toBuffer());
    expect(got.depth).toBe(depth);
    // Fewer bits than bytes hold stand at their top; wavefile leaves those of 12 and 20 bits at their foot.
    const shift = bits === '8' ? 2 ** up : 1;
    expect(numbers(got.kept, depth)).toEqual(wanted.map((v) => v * shift));
  });
  it.each(['16', '24', '32', '32f'] as const)(
    'of %s bits are the same where they are big-endian',
    async (bits) => {
      const samples =
        bits === '32f' ? wave(24, 200).map((v) => Math.fround(v / 2 ** 23)) : wave(Number(bits), 200);
      const make = () => {
        const wav = new WaveFile();
        wav.fromScratch(2, 44100, bits, [samples, samples.slice().reverse()]);
        return wav;
      };
      const big = make();
      big.toRIFX();
      expect(Buffer.from(big.toBuffer()).toString('latin1', 0, 4)).toBe('RIFX');
      const [one, other] = [await read(make().toBuffer()), await read(big.toBuffer(), 7)];
      expect(other.facts).toMatchObject({ channels: 2, sampleRate: 44100, frames: 200 });
      expect(other.kept).toEqual(one.kept);
    },
  );
  it('of doubles are kept as floats, to their nearest', async () => {
    const doubles = [0.1, -1, 1 / 3, NaN, Infinity, 1e-50];
    const wav = new WaveFile();
    wav.fromScratch(1, 48000, '64', doubles);
    const got = await read(wav.toBuffer());
    expect([...floatsOf(got.kept, got.depth)]).toEqual([0.1, -1, 1 / 3, 0, 0, 0].map(Math.fround));
  });
});

// EBU Tech 3285, version 2: the time stands 338 bytes into the chunk, in frames since midnight, 64 bits of it.
describe('a file that tells when it begins', () => {
  const withTime = (time: bigint, size = 602) => {
    const small = Buffer.from(wavHeader('s16', 1, 48000, 3));
    const bext = Buffer.alloc(8 + size);
    bext.write('bext', 0, 'latin1');
    bext.writeUInt32LE(size, 4);
    if (size >= 346) bext.writeBigUInt64LE(time, 8 + 338);
    return Buffer.concat([small.subarray(0, 12), bext, small.subarray(12), Buffer.from([1, 0, 2, 0, 3, 0])]);
  };
  it.each([0n, 1n, 2n ** 32n + 5n, 48000n * 86399n])('at frame %s of the day', async (time) => {
    for (const piece of [1, 61, 4000])
      expect((await read(withTime(time), piece)).facts.begins).toBe(Number(time));
  });
  it('or not, or tells what is no time', async () => {
    expect(
      (await read(Buffer.concat([wavHeader('s16', 1, 48000, 1), Buffer.alloc(2)]))).facts.begins,
    ).toBeNull();
    expect((await read(withTime(2n ** 63n))).facts.begins).toBeNull();
    expect((await read(withTime(0n, 338))).facts.begins).toBeNull();
    expect(numbers((await read(withTime(7n), 9)).kept, 's16')).toEqual([1, 2, 3]);
  });
});

// ITU-R BS.2088-1: a `ds64` chunk stands first, and sizes of 0xFFFFFFFF are told in it.
describe('files larger than 4 GB', () => {
  const frames = 2 ** 31;
  it('are written with sizes of 64 bits, and read so', async () => {
    const head = Buffer.from(wavHeader('s24', 1, 96000, frames));
    expect(head.toString('latin1', 0, 4)).toBe('RF64');
    expect(head.readUInt32LE(4)).toBe(0xffffffff);
    expect(head.toString('latin1', 12, 16)).toBe('ds64');
    expect(head.readUInt32LE(16)).toBe(28);
    expect(head.readBigUInt64LE(20)).toBe(BigInt(head.length - 8 + frames * 3));
    expect(head.readBigUInt64LE(28)).toBe(BigInt(frames * 3));
    expect(head.readBigUInt64LE(36)).toBe(BigInt(frames));
    const stream = new AudioStream();
    await whole(stream.push(head));
    expect(stream.facts).toMatchObject({ frames, channels: 1, sampleRate: 96000, dataOffset: head.length });
    await expect(whole(stream.end())).rejects.toThrow(/cut off: it says 2147483648 frames and holds 0/);
  });
  it.each(['RF64', 'BW64'])(
    'and small ones of the form %s, which may say their sizes themselves',
    async (form) => {
      const small = Buffer.from(wavHeader('s16', 1, 48000, 3));
      const ds64 = Buffer.alloc(36);
      ds64.write('ds64', 0, 'latin1');
      ds64.writeUInt32LE(28, 4);
      ds64.writeBigUInt64LE(6n, 16);
      for (const told of [6, 0xffffffff]) {
        const file = Buffer.concat([
          small.subarray(0, 12),
          ds64,
          small.subarray(12),
          Buffer.from([1, 0, 2, 0, 3, 0]),
        ]);
        file.write(form, 0, 'latin1');
        file.writeUInt32LE(told, 36 + 40);
        const got = await read(file, 5);
        expect(numbers(got.kept, 's16')).toEqual([1, 2, 3]);
      }
    },
  );
  it('are refused where nothing says how large they are', async () => {
    const file = Buffer.from(wavHeader('s16', 1, 48000, 3));
    file.write('RF64', 0, 'latin1');
    file.writeUInt32LE(0xffffffff, 40);
    await expect(read(file)).rejects.toThrow(/`data` chunk does not say how large/);
  });
});

// "Audio Interchange File Format: AIFF", 1.3, and the draft of AIFF-C: built by hand from their tables.
describe('AIFF and AIFF-C files', () => {
  const chunk = (id: string, ...parts: Uint8Array[]) => {
    const body = Buffer.concat(parts);
    const head = Buffer.alloc(8);
    head.write(id, 0, 'latin1');
    head.writeUInt32BE(body.length, 4);
    return Buffer.concat([head, body, Buffer.alloc(body.length & 1)]);
  };
  /** 44100 and 48000 as numbers of extended precision. */
  const RATES = { 44100: '400eac44000000000000', 48000: '400ebb80000000000000' };
  function aiff(
    {
      bits,
      frames,
      rate = 48000,
      encoding = '',
      offset = 0,
      soundFirst = false,
    }: {
      bits: number;
      frames: number;
      rate?: 44100 | 48000;
      encoding?: string;
      offset?: number;
      soundFirst?: boolean;
    },
    audio: Uint8Array,
    channels = 1,
  ) {
    const common = Buffer.alloc(18);
    common.writeUInt16BE(channels, 0);
    common.writeUInt32BE(frames, 2);
    common.writeUInt16BE(bits, 6);
    common.write(RATES[rate], 8, 'hex');
    const sound = Buffer.alloc(8 + offset);
    sound.writeUInt32BE(offset, 0);
    const form = Buffer.from(encoding ? 'AIFC' : 'AIFF', 'latin1');
    const name = encoding ? [Buffer.from(`${encoding}\u0004none\u0000`, 'latin1')] : [];
    const chunks = [
      chunk('NAME', Buffer.from('a name')),
      chunk('COMM', common, ...name),
      chunk('SSND', sound, audio),
    ];
    return chunk('FORM', form, ...(soundFirst ? chunks.reverse() : chunks));
  }
  const big = (values: readonly number[], size: number) => {
    const out = Buffer.alloc(values.length * size);
    values.forEach((v, i) => out.writeIntBE(v, i * size, size));
    return out;
  };

  it.each([
    [8, 1, 's16'],
    [16, 2, 's16'],
    [24, 3, 's24'],
    [32, 4, 's32'],
  ] as const)('of %s bits are kept bit by bit', async (bits, size, depth) => {
    const wanted = wave(bits, 64);
    const got = await read(aiff({ bits, frames: 32, rate: 44100, offset: 6 }, big(wanted, size), 2), 11);
    expect(got.facts).toMatchObject({ channels: 2, frames: 32, sampleRate: 44100 });
    expect(numbers(got.kept, depth)).toEqual(wanted.map((v) => (bits === 8 ? v * 256 : v)));
  });
  // "Local Chunks": there are no restrictions on the ordering of local chunks within a FORM AIFF.
  it('whose audio comes first are read like others', async () => {
    const wanted = wave(24, 61);
    const options = { bits: 24, frames: 61, offset: 3 };
    const audio = big(wanted, 3);
    const first = aiff({ ...options, soundFirst: true }, audio);
    expect(first.indexOf('SSND')).toBeLessThan(first.indexOf('COMM'));
    for (const piece of [first.length, 5]) {
      const got = await read(first, piece);
      expect(numbers(got.kept, 's24')).toEqual(wanted);
      expect(got.facts).toMatchObject({ channels: 1, frames: 61, sampleRate: 48000 });
    }
    // Something that is no chunk stands behind, or the last of it is missing.
    expect(numbers((await read(Buffer.concat([first, Buffer.from('?!')]))).kept, 's24')).toEqual(wanted);
    for (const cut of [40, first.indexOf('COMM'), first.indexOf('COMM') + 12])
      await expect(read(first.subarray(0, cut))).rejects.toMatchObject({ rule: 'cut' });
    await expect(read(aiff({ ...options, frames: 62, soundFirst: true }, audio))).rejects.toThrow(
      /does not hold them/,
    );
    const ulaw = aiff({ ...options, encoding: 'ulaw', soundFirst: true }, audio);
    await expect(read(ulaw)).rejects.toThrow(/encoded as `ulaw`/);
  });
  it('of little-endian whole numbers, of floats and of doubles', async () => {
    const wanted = wave(16, 40);
    const little = Buffer.alloc(80);
    wanted.forEach((v, i) => little.writeInt16LE(v, i * 2));
    expect(
      numbers((await read(aiff({ bits: 16, frames: 40, encoding: 'sowt' }, little))).kept, 's16'),
    ).toEqual(wanted);
    const floats = [0.5, -0.25, 1, NaN];
    for (const [encoding, size] of [
      ['fl32', 4],
      ['FL64', 8],
    ] as const) {
      const bytes = Buffer.alloc(4 * size);
      floats.forEach((v, i) => (size === 4 ? bytes.writeFloatBE(v, i * 4) : bytes.writeDoubleBE(v, i * 8)));
      const got = await read(aiff({ bits: size * 8, frames: 4, encoding }, bytes));
      expect([...floatsOf(got.kept, got.depth)]).toEqual([0.5, -0.25, 1, 0]);
    }
  });
  it('that lose something, or lie, are refused by what is wrong with them', async () => {
    const audio = big(wave(16, 10), 2);
    await expect(read(aiff({ bits: 16, frames: 10, encoding: 'ulaw' }, audio))).rejects.toThrow(
      /encoded as `ulaw`/,
    );
    await expect(read(aiff({ bits: 16, frames: 11 }, audio))).rejects.toThrow(/does not hold them/);
    await expect(read(aiff({ bits: 16, frames: 10 }, audio).subarray(0, -5))).rejects.toThrow(
      /cut off: it says 10 frames/,
    );
    await expect(read(aiff({ bits: 0, frames: 10 }, audio))).rejects.toThrow(/of 0 bits/);
    await expect(read(aiff({ bits: 16, frames: 0 }, audio))).rejects.toThrow(/no audio/);
    await expect(read(Buffer.from('FORM\0\0\0\x088SVXVHDR'))).rejects.toThrow(/of the form `8SVX`/);
  });
});

it('a thousand damaged files of each kind are read or refused, and never crash', async () => {
  const wav = Buffer.concat([wavHeader('s24', 2, 48000, 40), Buffer.alloc(240, 3)]);
  const large = Buffer.from(wavHeader('s16', 2, 48000, 2 ** 31));
  const aiffLike = Buffer.concat([
    Buffer.from('FORM\0\0\0\x60AIFFCOMM\0\0\0\x12\0\x01\0\0\0\x08\0\x10', 'latin1'),
    Buffer.from('400ebb80000000000000', 'hex'),
    Buffer.from('SSND\0\0\0\x18\0\0\0\0\0\0\0\0', 'latin1'),
    Buffer.alloc(16, 5),
  ]);
  const turned = Buffer.concat([aiffLike.subarray(0, 12), aiffLike.subarray(38), aiffLike.subarray(12, 38)]);
  for (const good of [wav, large, aiffLike, turned])
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.integer({ min: 0, max: 255 })), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.nat(good.length),
        async (changes, length) => {
          const file = Buffer.from(good.subarray(0, length));
          for (const [at, byte] of changes) if (at < length) file[at] = byte;
          try {
            await read(file, 13);
          } catch (error) {
            expect((error as Error).name).toBe('Refusal');
          }
        },
      ),
      { numRuns: 1000 },
    );
});

it('the highest of kept samples is that of the floats that they are', () => {
  for (const depth of ['s16', 's24', 's32', 'f32'] as const)
    fc.assert(
      fc.property(
        fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 4, maxLength: 60 }),
        (values) => {
          const size = depthBytes(depth);
          const kept = Buffer.from(new ArrayBuffer(values.length * size));
          values.forEach((v, i) =>
            depth === 'f32'
              ? kept.writeFloatLE(v, i * 4)
              : kept.writeIntLE(Math.trunc(v * (2 ** (size * 8 - 1) - 1)), i * size, size),
          );
          const floats = floatsOf(kept, depth);
          const peak = peaksOf(kept, depth);
          for (const [from, to] of [
            [0, values.length],
            [1, values.length - 1],
          ] as const) {
            const wanted = Math.max(0, ...[...floats.subarray(from, to)].map(Math.abs));
            expect(Math.abs(peak(from, to) - wanted)).toBeLessThan(1e-7);
          }
        },
      ),
      { numRuns: 40 },
    );
});
