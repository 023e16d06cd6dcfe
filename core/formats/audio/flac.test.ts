import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { flacEncoder, littleEndian, plainFlac, silentFrame } from '../../testing/flacFile';
import { whole } from '../../testing/whole';
import { AudioStream, readAudioHeader } from './audioFile';
import { groupsOf } from './channels';
import { isFlac } from './flac';
import { readFrameHeader } from './flacFrames';
import { depthBytes, depthOf } from './samples';

const encode = await flacEncoder();

async function read(file: Uint8Array, piece = file.length, asFarAsItGoes = false) {
  const stream = new AudioStream(asFarAsItGoes);
  const kept: Uint8Array[] = [];
  for (let at = 0; at < file.length; at += piece)
    kept.push(await whole(stream.push(file.slice(at, at + piece))));
  kept.push(await whole(stream.end()));
  return { facts: stream.facts!, frames: stream.frames, kept: Buffer.concat(kept) };
}
/** Full scale both ways, silence, a tone and noise. */
function material(frames: number, channels: number, bits: number): Int32Array {
  const full = 2 ** (bits - 1);
  let seed = 7;
  return Int32Array.from({ length: frames * channels }, (_, i) => {
    seed = (seed * 1103515245 + 12345) & 0x7fffffff;
    if (i < 4) return i % 2 ? full - 1 : -full;
    if (i > frames && i < frames + 500) return 0;
    return Math.round((full - 1) * (0.6 * Math.sin(i * 0.02) + 0.3 * (seed / 0x7fffffff - 0.5)));
  });
}

describe('FLAC files of the reference encoder come in bit by bit', () => {
  it.each([
    [8, 1, 's16', 8],
    [12, 2, 's16', 4],
    [16, 1, 's16', 0],
    [16, 2, 's16', 0],
    [24, 2, 's24', 0],
    [20, 2, 's24', 4],
    [24, 6, 's24', 0],
    [16, 8, 's16', 0],
  ] as const)('of %i bits and %i channels', async (bits, channels, depth, up) => {
    const samples = material(9000, channels, bits);
    for (const level of [0, 5, 8])
      for (const piece of [1 << 20, 4097]) {
        const got = await read(encode(samples, { bits, channels, level }), piece);
        expect(depthOf(got.facts.format)).toBe(depth);
        expect(got.facts).toMatchObject({ channels, sampleRate: 48000, frames: 9000 });
        expect(got.frames).toBe(9000);
        expect(got.kept.equals(littleEndian(samples, depthBytes(depth), up))).toBe(true);
      }
  });
  it.each([8000, 44100, 96000, 192000])('at %i Hz', async (rate) => {
    const samples = material(3000, 2, 16);
    const { facts, kept } = await read(encode(samples, { rate, channels: 2 }), 999);
    expect(facts.sampleRate).toBe(rate);
    expect(kept.equals(littleEndian(samples, 2))).toBe(true);
  });
  it('with blocks of every size, byte by byte, without being told how long it is', async () => {
    const samples = material(2500, 1, 16);
    for (const block of [16, 576, 4608]) {
      const file = encode(samples, { block, told: false });
      const { facts, frames, kept } = await read(file, block === 576 ? 1 : 777);
      expect([facts.frames, facts.flac!.md5]).toEqual([null, null]);
      expect(frames).toBe(2500);
      expect(kept.equals(littleEndian(samples, 2))).toBe(true);
    }
  });
  it('with every value that 24 bits have', async () => {
    const samples = Int32Array.from({ length: 1 << 24 }, (_, i) => i - (1 << 23));
    const { kept } = await read(encode(samples, { bits: 24, level: 0, block: 4096 }), 1 << 20);
    expect(kept.equals(littleEndian(samples, 3))).toBe(true);
  }, 120_000);
  it('minutes of it', async () => {
    const samples = material(48000 * 60, 2, 24);
    const { kept } = await read(encode(samples, { bits: 24, channels: 2, block: 4096 }), 1 << 20);
    expect(kept.equals(littleEndian(samples, 3))).toBe(true);
  }, 60_000);
});

// RFC 9639, appendix D.1, from memory: one frame of two channels, whose CRCs and MD5 hold as they stand here.
it('the first worked example of the standard is read as it says', async () => {
  const file = Buffer.from(
    '664c614380000022100010000000' +
      '0f00000f0ac442f000000001' +
      '3e84b41807dc690307586a3dad1a2e0f' +
      'fff869180000bf0358fd0312' +
      '8baa9a',
    'hex',
  );
  const { facts, kept } = await read(file);
  expect(facts).toMatchObject({ channels: 2, sampleRate: 44100, frames: 1 });
  expect([kept.readInt16LE(0), kept.readInt16LE(2)]).toEqual([25588, 10416]);
});

describe('FLAC files that are written out by the standard', () => {
  const random = (count: number, bits: number) =>
    Int32Array.from({ length: count }, (_, i) =>
      i < 4
        ? [-(2 ** (bits - 1)), 2 ** (bits - 1) - 1, 0, -1][i]!
        : Math.floor((Math.random() - 0.5) * 2 ** bits),
    );
  it.each([1, 2, 5])('of 32 bits and %i channels', async (channels) => {
    const samples = random(1000 * channels, 32);
    const file = plainFlac(samples, { bits: 32, channels, blocks: [400, 400, 200] });
    for (const piece of [file.length, 100]) {
      const { facts, kept } = await read(file, piece);
      expect(depthOf(facts.format)).toBe('s32');
      expect(kept.equals(littleEndian(samples, 4))).toBe(true);
    }
  });
  it('of blocks of any sizes, each another, in pieces of any size', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 16, max: 600 }), { minLength: 1, maxLength: 12 }),
        fc.constantFrom(4, 9, 16, 20, 24, 32),
        fc.integer({ min: 1, max: 3 }),
        fc.integer({ min: 1, max: 3000 }),
        async (blocks, bits, channels, piece) => {
          const samples = random(blocks.reduce((sum, b) => sum + b, 0) * channels, bits);
          const { kept, facts } = await read(plainFlac(samples, { bits, channels, blocks }), piece);
          const bytes = depthBytes(depthOf(facts.format));
          expect(kept.equals(littleEndian(samples, bytes, bytes * 8 - bits))).toBe(true);
        },
      ),
      { numRuns: 100 },
    );
  });
  it('with what players write behind it, and with nothing that they would', async () => {
    const samples = random(2000, 16);
    const file = plainFlac(samples, { bits: 16, channels: 1, blocks: [800, 800, 400] });
    const tag = Buffer.concat([Buffer.from('TAG'), Buffer.alloc(125, 0x20)]);
    for (const piece of [1 << 16, 1, 50])
      expect((await read(Buffer.concat([file, tag]), piece)).kept.equals(littleEndian(samples, 2))).toBe(
        true,
      );
    await expect(read(Buffer.concat([file, Buffer.alloc(50)]))).rejects.toMatchObject({ rule: 'cut' });
  });
  it('whose frames count from elsewhere are taken out of a longer one, and refused', async () => {
    const samples = random(800, 16);
    for (const from of [1, 130, 70_000, 2 ** 30])
      await expect(
        read(plainFlac(samples, { bits: 16, channels: 1, blocks: [400, 400], from })),
      ).rejects.toMatchObject({ rule: 'cut' });
  });
  // A kilobyte may stand for an hour: 12 bytes a frame of silence (9.2.2, constant subframes).
  it('of two hours of silence, in one piece, is given a part at a time', async () => {
    const frames = 7200 * 48_000;
    const file = encode(new Int32Array(4096 * 8), { block: 4096, told: false });
    const { dataOffset } = readAudioHeader(file)!;
    const one = readFrameHeader(file, dataOffset)!;
    expect(file.length - dataOffset).toBeLessThan(8 * 20);
    // Each frame bears its own number, and its own sums: they are made anew.
    const silence = Array.from({ length: Math.ceil(frames / 4096) }, (_, k) => silentFrame(4096, k));
    const stream = new AudioStream();
    let [samples, largest] = [0, 0];
    for await (const part of stream.push(Buffer.concat([file.subarray(0, dataOffset), ...silence]))) {
      expect(part.every((b) => b === 0)).toBe(true);
      samples += part.length / 2;
      largest = Math.max(largest, part.length);
    }
    for await (const part of stream.end()) samples += part.length / 2;
    expect(samples).toBe(silence.length * 4096);
    expect(largest).toBeLessThanOrEqual(2 << 20);
    expect(one.samples).toBe(4096);
  });
  it('hours into it, numbers have up to 36 bits', () => {
    // 0xfe leads six bytes: RFC 9639, 9.1.5, table 18.
    const { length } = plainFlac(new Int32Array(1), { bits: 16, channels: 1, blocks: [1] });
    const header = (from: number) =>
      readFrameHeader(plainFlac(new Int32Array(1), { bits: 16, channels: 1, blocks: [1], from }), 42);
    for (const [from, size] of [
      [0, 7],
      [127, 7],
      [128, 8],
      [2047, 8],
      [2048, 9],
      [65_535, 9],
      [65_536, 10],
      [2 ** 21 - 1, 10],
      [2 ** 21, 11],
      [2 ** 26, 12],
      [2 ** 31 - 1, 12],
      [2 ** 31, 13],
      [2 ** 36 - 1, 13],
    ] as const)
      expect(header(from)).toMatchObject({ number: from, size });
    expect(length).toBe(42 + 7 + 3 + 2);
  });
  it('of noise that is full of what begins a frame is none the worse', async () => {
    // Samples that are themselves headers of frames, but for their sums.
    const samples = Int32Array.from({ length: 3000 }, (_, i) => [-8, 0xc9a8 - 65536, 0x0080, -8][i % 4]!);
    const file = plainFlac(samples, { bits: 16, channels: 1, blocks: [1000, 1000, 1000] });
    const { kept } = await read(file, 700);
    expect(kept.equals(littleEndian(samples, 2))).toBe(true);
  });
});

describe('its metadata', () => {
  it('are passed over, as many and as large as they are; comments may tell where loudspeakers stand', async () => {
    const samples = material(2000, 6, 16);
    const file = encode(samples, { channels: 6 });
    expect(isFlac(file)).toBe(true);
    // Where nothing is told, channels stand as the standard orders them: 9.1.3.
    expect(groupsOf(readAudioHeader(file)!).map((g) => g.place)).toEqual(['front', 'centre', 'lfe', 'rear']);
    const comment = Buffer.from('WAVEFORMATEXTENSIBLE_CHANNEL_MASK=0x063F');
    const block = (type: number, body: Buffer) =>
      Buffer.concat([Buffer.from([type, 0, body.length >> 8, body.length & 255]), body]);
    const withMore = Buffer.concat([
      file.subarray(0, 42),
      block(1, Buffer.alloc(60_000)),
      block(4, comment),
      file.subarray(42),
    ]);
    const { facts, kept } = await read(withMore, 5000);
    expect(facts.mask).toBe(0x63f);
    expect(kept.equals(littleEndian(samples, 2))).toBe(true);
  });
});

describe('a damaged FLAC file', () => {
  const samples = () => material(9000, 1, 16);
  it('that is cut off is refused as that, and comes in as far as it goes when it is asked to', async () => {
    const file = encode(samples());
    const half = file.subarray(0, file.length / 2);
    await expect(read(half, 1000)).rejects.toMatchObject({ rule: 'cut' });
    const { frames, kept } = await read(half, 1000, true);
    expect(frames).toBeGreaterThan(3000);
    expect(frames % 1024).toBe(0);
    expect(kept.equals(littleEndian(samples().subarray(0, frames), 2))).toBe(true);
  });
  it('whose bits were turned is refused, wherever it was, and nothing behind the damage is taken', async () => {
    const file = encode(samples());
    const begins = readAudioHeader(file)!.dataOffset;
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: begins, max: file.length - 1 }), fc.nat(7), async (at, bit) => {
        const bad = Buffer.from(file);
        bad[at]! ^= 1 << bit;
        await expect(read(bad, 3000)).rejects.toThrow(/damaged|cut off/);
        const { frames, kept } = await read(bad, 3000, true);
        expect(frames).toBeLessThan(9000);
        expect(kept.equals(littleEndian(samples().subarray(0, frames), 2))).toBe(true);
      }),
      { numRuns: 60 },
    );
  });
  it('whose frames are all there, and of which another MD5 is told, is refused', async () => {
    const bad = Buffer.from(encode(samples()));
    bad[26]! ^= 1;
    await expect(read(bad)).rejects.toThrow(/MD5/);
  });
  it('a thousand of them are read or refused, and never crash', async () => {
    const file = encode(material(700, 2, 16), { channels: 2, block: 256 });
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(file.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }),
        fc.nat(file.length),
        async (changes, length) => {
          const bad = Buffer.from(file.subarray(0, length));
          for (const [at, byte] of changes) if (at < length) bad[at] = byte;
          try {
            await read(bad, 300);
          } catch (error) {
            expect((error as Error).name).toBe('Refusal');
          }
        },
      ),
      { numRuns: 1000 },
    );
  }, 120_000);
  it('of fewer bits than FLAC has says so', () => {
    const file = Buffer.from(encode(samples()));
    // RFC 9639, 8.2: five bits from the last of byte 20 on say one less.
    file[20]! &= 0xfe;
    file[21] = (file[21]! & 0x0f) | (2 << 4);
    expect(() => readAudioHeader(file)).toThrow('of 3 bits');
  });
});
