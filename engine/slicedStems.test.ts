import { describe, expect, it } from 'vitest';
import type { Channels } from '../core/session/types';
import { SlicedStems } from './slicedStems';
import type { Slice } from '../core/formats/audio/slices';

/** A sample tells its stem, frame and channel. */
const value = (stem: string, frame: number, channel: number) => Number(stem) * 1e6 + frame + channel / 2;
const facts: Readonly<Record<string, { readonly channels: Channels; readonly frames: number }>> = {
  '1': { channels: 1, frames: 100_000 },
  '2': { channels: 2, frames: 70_000 },
};
const setUp = (refuse: (question: number) => boolean = () => false) => {
  const questions: (readonly Slice[])[] = [];
  const stems = new SlicedStems(facts, async (slices, take) => {
    questions.push(slices);
    await Promise.resolve();
    if (refuse(questions.length)) throw new Error('The server is away.');
    slices.forEach(({ stem, start, frames }, n) => {
      const { channels, frames: all } = facts[stem]!;
      const there = Math.max(0, Math.min(frames, all - start));
      const floats = Float32Array.from({ length: there * channels }, (_, i) =>
        value(stem, start + Math.floor(i / channels), i % channels),
      );
      take(n, { depth: 'f32', channels: channels as Channels, bytes: new Uint8Array(floats.buffer) });
    });
  });
  return { stems, questions };
};
const read = async (
  stems: SlicedStems,
  stem: string | null,
  channels: 1 | 2,
  start: number,
  frames: number,
) => {
  const into = new Float32Array(frames * channels).fill(NaN);
  await stems.read({ stem, channels }, start, into);
  return [...into];
};

describe('stems that are printed', () => {
  it('come as they are, over the borders of slices, and silence behind their end', async () => {
    const { stems } = setUp();
    for (const start of [0, 32_760, 65_535, 99_990, 200_000]) {
      const frames = Array.from({ length: 20 }, (_, i) => start + i);
      const mono = frames.map((f) => (f < 100_000 ? value('1', f, 0) : 0));
      expect(await read(stems, '1', 1, start, 20)).toEqual(mono);
      // On a stereo strip a mono stem stands on both sides; a stereo stem on a mono strip is folded.
      expect(await read(stems, '1', 2, start, 20)).toEqual(mono.flatMap((v) => [v, v]));
      const stereo = frames.map((f) => (f < 70_000 ? [value('2', f, 0), value('2', f, 1)] : [0, 0]));
      expect(await read(stems, '2', 2, start, 20)).toEqual(stereo.flat());
      expect(await read(stems, '2', 1, start, 20)).toEqual(
        stereo.map(([l, r]) => Math.fround((l! + r!) / 2)),
      );
    }
    expect(await read(stems, null, 1, 0, 3)).toEqual([0, 0, 0]);
    expect(await read(stems, 'elsewhere', 1, 0, 3)).toEqual([0, 0, 0]);
  });

  it('all strips are asked for in one question, the next slices meanwhile, and nothing twice', async () => {
    const { stems, questions } = setUp();
    for (let at = 0; at < 100_000; at += 4096)
      await Promise.all([
        read(stems, '1', 1, at, 4096),
        read(stems, '1', 2, at, 4096),
        read(stems, '2', 2, at, 4096),
      ]);
    expect(questions.length).toBeLessThanOrEqual(4);
    expect(questions[0]!.map(({ stem, start }) => [stem, start])).toEqual([
      ['1', 0],
      ['2', 0],
      ['1', 32768],
      ['2', 32768],
    ]);
    const all = questions.flat().map(({ stem, start }) => `${stem} ${start}`);
    expect(new Set(all).size).toBe(all.length);
    expect(all.length).toBe(4 + 3);
  });

  it('a print that meets a server that is away fails, and the next begins anew', async () => {
    const { stems } = setUp((question) => question === 1);
    await expect(read(stems, '1', 1, 0, 10)).rejects.toThrow('The server is away.');
    expect(await read(stems, '1', 1, 0, 2)).toEqual([value('1', 0, 0), value('1', 1, 0)]);
  });

  it('what is not there any more is not silence', async () => {
    const stems = new SlicedStems(facts, () => Promise.resolve());
    await expect(read(stems, '1', 1, 0, 10)).rejects.toThrow('did not come');
  });
});
