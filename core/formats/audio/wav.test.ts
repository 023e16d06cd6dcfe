import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { whole } from '../../testing/whole';
import { AudioStream, readAudioHeader } from './audioFile';
import { depthOf, floatsOf, keptBytes } from './samples';
import { floatBytes, floatWavHeader } from './wav';

const join = (...parts: Uint8Array[]) => {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
};
const decode = async (file: Uint8Array) => {
  const stream = new AudioStream();
  const kept = await whole(stream.push(file));
  await whole(stream.end());
  const facts = stream.facts!;
  return { facts, audio: [...floatsOf(kept, depthOf(facts.format))] };
};
const int = (bits: 16 | 24 | 32) =>
  ({ kind: 'int', bytes: (bits / 8) as 2 | 3 | 4, bigEndian: false, unsigned: false }) as const;
const sine = (frames: number, channels: number) =>
  Float32Array.from({ length: frames * channels }, (_, i) => 0.8 * Math.sin(i * 0.05 + (i % channels)));

describe('against the npm package wavefile', () => {
  it('what we write is read back, sample for sample', () => {
    const audio = sine(500, 2);
    const wav = new WaveFile(join(floatWavHeader(2, 48000, 500), floatBytes(audio)));
    expect(wav.bitDepth).toBe('32f');
    expect((wav.fmt as { sampleRate: number }).sampleRate).toBe(48000);
    const [l, r] = wav.getSamples(false, Float32Array) as unknown as [Float32Array, Float32Array];
    expect([...l]).toEqual([...audio].filter((_, i) => i % 2 === 0));
    expect([...r]).toEqual([...audio].filter((_, i) => i % 2 === 1));
  });

  it.each([
    ['16', 32768],
    ['24', 8388608],
    ['32', 2147483648],
  ] as const)('what it writes with %s bits is read by us', async (bits, full) => {
    const integers = Array.from({ length: 400 }, (_, i) => Math.round(Math.sin(i * 0.1) * (full - 1) * 0.9));
    const wav = new WaveFile();
    wav.fromScratch(1, 44100, bits, integers);
    const { facts, audio } = await decode(wav.toBuffer());
    expect(facts).toMatchObject({
      format: int(Number(bits) as 16),
      channels: 1,
      sampleRate: 44100,
      frames: 400,
    });
    audio.forEach((v, i) =>
      expect(Math.abs(v * full - integers[i]!)).toBeLessThanOrEqual(bits === '32' ? 128 : 0.01),
    );
  });

  it('float and stereo files, and files with further chunks before the audio, are read', async () => {
    const audio = sine(300, 2);
    const wav = new WaveFile();
    wav.fromScratch(2, 96000, '32f', [
      audio.filter((_, i) => i % 2 === 0),
      audio.filter((_, i) => i % 2 === 1),
    ]);
    wav.setTag('ICMT', 'a comment, so that a LIST chunk stands in the file');
    const { facts, audio: read } = await decode(wav.toBuffer());
    expect(facts).toMatchObject({
      format: { kind: 'float', bytes: 4 },
      channels: 2,
      sampleRate: 96000,
      frames: 300,
    });
    expect(read).toEqual([...audio]);
  });
});

describe('full scale', () => {
  // Two's complement PCM: the most negative code is -1.0 (RIFF/WAVE specification, "Data Format of the Samples").
  it.each([
    [16, [0x00, 0x80], -1],
    [16, [0xff, 0x7f], 32767 / 32768],
    [24, [0x00, 0x00, 0x80], -1],
    [24, [0xff, 0xff, 0x7f], 8388607 / 8388608],
    [32, [0x00, 0x00, 0x00, 0x80], -1],
  ] as const)('of %s bits %j is %s', (bits, bytes, value) => {
    expect(floatsOf(keptBytes(new Uint8Array(bytes), int(bits)), depthOf(int(bits)))[0]).toBeCloseTo(
      value,
      7,
    );
  });
  it('a float that is not finite becomes silence', () => {
    const format = { kind: 'float', bytes: 4, bigEndian: false, unsigned: false } as const;
    const kept = keptBytes(floatBytes(new Float32Array([NaN, Infinity, 0.5])), format);
    expect([...floatsOf(kept, 'f32')]).toEqual([0, 0, 0.5]);
  });
});

describe('a file that comes in pieces', () => {
  it('gives the same audio however it is cut', async () => {
    const audio = sine(700, 2);
    const file = join(floatWavHeader(2, 48000, 700), floatBytes(audio));
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 1, max: 400 }), { minLength: 1, maxLength: 60 }),
        async (cuts) => {
          const stream = new AudioStream();
          const got: number[] = [];
          let at = 0;
          for (const n of [...cuts, file.length]) {
            got.push(...floatsOf(await whole(stream.push(file.subarray(at, at + n))), 'f32'));
            at += n;
          }
          await whole(stream.end());
          expect(stream.frames).toBe(700);
          expect(got).toEqual([...audio]);
        },
      ),
      { numRuns: 50 },
    );
  });
});

describe('a broken file is refused by what is wrong with it', () => {
  const audio = sine(100, 1);
  const good = join(floatWavHeader(1, 48000, 100), floatBytes(audio));
  const changed = (at: number, ...bytes: number[]) => {
    const file = good.slice();
    file.set(bytes, at);
    return file;
  };
  it.each<[string, Uint8Array, RegExp]>([
    ['of no bytes', new Uint8Array(0), /empty/],
    [
      'that is text',
      new TextEncoder().encode('this is a letter, not a sound, whatever its name says'),
      /not a WAV file/,
    ],
    ['of three bytes', good.slice(0, 3), /too short/],
    ['cut off in its audio', good.slice(0, 58 + 200), /cut off.*100 frames.*50/],
    ['cut off in its header', good.slice(0, 30), /cut off before/],
    ['with no channels', changed(22, 0, 0), /0 channels/],
    ['with 600 channels', changed(22, 88, 2), /600 channels/],
    ['of 40 bits', changed(20, 1, 0, 1, 0, 128, 187, 0, 0, 128, 187, 0, 0, 5, 0, 40, 0), /40 bits/],
    ['of an encoding that loses', changed(20, 6, 0), /encoding 6/],
    ['whose frame size does not fit', changed(32, 7, 0), /do(es)? not fit/],
    ['whose format chunk lies about its size', changed(16, 0xff, 0xff, 0xff, 0x7f), /lies about its size/],
    ['whose data chunk lies: more than the file holds', changed(54, 0xf0, 0xff, 0xff, 0x0f), /cut off/],
    ['with a sample rate of 3 Hz', changed(24, 3, 0, 0, 0), /3 Hz/],
  ])('%s', async (_what, file, reason) => {
    await expect(decode(file)).rejects.toThrow(reason);
  });

  it('with a chunk before the audio that lies about its size', async () => {
    const odd = join(
      good.subarray(0, 12),
      new Uint8Array([0x4a, 0x55, 0x4e, 0x4b, 0xff, 0xff, 0xff, 0x7f]),
      good.subarray(12),
    );
    await expect(decode(odd)).rejects.toThrow(/lies about its size/);
  });
  it('never crashes on noise: it gives facts, asks for more, or refuses', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 120 }), fc.nat(57), (noise, at) => {
        const file = good.slice();
        file.set(noise.subarray(0, Math.max(0, file.length - at)), Math.min(at, file.length - noise.length));
        try {
          const facts = readAudioHeader(file);
          if (facts) expect(facts.frames).toBeGreaterThanOrEqual(0);
        } catch (error) {
          expect((error as Error).name).toBe('Refusal');
        }
      }),
      { numRuns: 500 },
    );
  });
});
