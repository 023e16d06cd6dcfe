import { beforeEach, describe, expect, it } from 'vitest';
import { Feeder, type FeedSource } from './feeder';
import {
  CONTROL,
  CONTROL_WORDS,
  ringBytes,
  ringNext,
  ringViews,
  RING_FRAMES,
  songAt,
  type Cue,
} from './shared';
import { PIECE_FRAMES } from './stemFetch';

/** What a stem has at a frame: whole numbers, which floats hold exactly. */
const sample = (stem: string, frame: number, channel: number) =>
  (stem.charCodeAt(0) * 1000 + frame * 2 + channel) % 1_000_003;

const memory = new SharedArrayBuffer(CONTROL_WORDS * 4);
const control = new Int32Array(memory);
/** Pieces that were asked for and are not answered yet. */
let asked: { name: string; give(): Promise<void>; refuse(): Promise<void> }[];
let names: string[];
let feeder: Feeder;

const settle = async () => {
  for (let i = 0; i < 6; i++) await Promise.resolve();
  await new Promise(setImmediate);
};
function source(strip: string, more: Partial<FeedSource> = {}): FeedSource {
  const channels = more.channels ?? 1;
  return {
    strip,
    channels,
    stem: strip,
    stemChannels: channels,
    stemFrames: 10 * PIECE_FRAMES,
    ring: new SharedArrayBuffer(ringBytes(channels)),
    ...more,
  };
}
const channelsOf = new Map<string, number>();
beforeEach(() => {
  control.fill(0);
  asked = [];
  names = [];
  channelsOf.clear();
  feeder = new Feeder(
    (stem, piece) =>
      new Promise((done, fail) => {
        names.push(`${stem} ${piece}`);
        asked.push({
          name: `${stem} ${piece}`,
          async give() {
            const channels = channelsOf.get(stem)!;
            done(
              Float32Array.from({ length: PIECE_FRAMES * channels }, (_, i) =>
                sample(stem, piece * PIECE_FRAMES + Math.floor(i / channels), i % channels),
              ),
            );
            await settle();
          },
          async refuse() {
            fail(new Error('away'));
            await settle();
          },
        });
      }),
  );
  feeder.hear({ type: 'start', control: memory });
});
async function play(sources: readonly FeedSource[], cue: Partial<Cue>, generation = 1) {
  for (const s of sources) if (s.stem) channelsOf.set(s.stem, s.stemChannels);
  feeder.hear({ type: 'sources', sources });
  feeder.hear({ type: 'cue', generation, cue: { start: 0, loopStart: 0, loopEnd: 0, ...cue } });
  await settle();
}
async function giveAll() {
  await settle();
  while (asked.length) {
    await asked.shift()!.give();
    await settle();
  }
}
/** As the audio thread does: it takes a generation up, and has played so many frames of it. */
function playedTo(frames: number, generation = 1) {
  Atomics.store(control, CONTROL.playing, generation);
  Atomics.store(control, CONTROL.clock, frames);
  feeder.fill();
}
const there = (s: FeedSource, generation = 1) =>
  Atomics.load(ringViews(s.ring, s.channels).head, ringNext(generation & 1));
const inRing = (s: FeedSource, frame: number, channel = 0, generation = 1) =>
  ringViews(s.ring, s.channels).audio[generation & 1]![channel]![frame % RING_FRAMES];

describe('the feeder', () => {
  it('says that a generation can be played when every source has its first frames, and not before', async () => {
    const [a, b] = [source('a'), source('b')];
    await play([a, b], { start: 1000 });
    expect(names).toEqual(['a 0', 'b 0']);
    await asked.shift()!.give();
    expect(there(a)).toBe(RING_FRAMES - 512);
    expect(Atomics.load(control, CONTROL.ready)).toBe(0);
    await asked.shift()!.give();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    expect([...control.slice(CONTROL.cues + 3, CONTROL.cues + 6)]).toEqual([1000, 0, 0]);
    for (const frame of [0, 1, 777, RING_FRAMES - 513])
      expect(inRing(a, frame)).toBe(sample('a', 1000 + frame, 0));
  });

  it('keeps up with the playhead through pieces and rings, to the frame, in stereo', async () => {
    const s = source('s', { channels: 2 });
    await play([s], { start: 5 });
    await giveAll();
    for (let clock = 0; clock < 3 * PIECE_FRAMES; clock += 4096) {
      playedTo(clock);
      await giveAll();
      expect(there(s)).toBeGreaterThan(clock + 6144);
      for (const frame of [clock, clock + 4095])
        for (const c of [0, 1]) expect(inRing(s, frame, c)).toBe(sample('s', 5 + frame, c));
    }
    expect(new Set(names).size).toBe(names.length);
  });

  it('goes around a loop, and enters it from before alone', async () => {
    const cue = { start: 60_000, loopStart: 50_000, loopEnd: 70_000 };
    const s = source('l');
    await play([s], cue);
    await giveAll();
    for (let clock = 0; clock < 60_000; clock += 2000) {
      playedTo(clock);
      await giveAll();
      expect(inRing(s, clock)).toBe(sample('l', songAt(cue, clock), 0));
    }
    const after = source('m');
    await play([after], { ...cue, start: 80_000 }, 2);
    await giveAll();
    expect(inRing(after, 100, 0, 2)).toBe(sample('m', 80_100, 0));
  });

  it('gives silence where a strip has no stem, and after the stem’s end', async () => {
    const [none, short] = [source('n', { stem: null }), source('e', { stemFrames: PIECE_FRAMES })];
    await play([none, short], { start: PIECE_FRAMES - 100 });
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    expect(inRing(short, 99)).toBe(sample('e', PIECE_FRAMES - 1, 0));
    expect([inRing(short, 100), inRing(short, 9000), inRing(none, 0)]).toEqual([0, 0, 0]);
    expect(names).toEqual(['e 0']);
  });

  it('folds a stereo stem for a mono strip, and gives a mono one to both sides', async () => {
    const [mono, wide] = [source('x', { stemChannels: 2 }), source('y', { channels: 2, stemChannels: 1 })];
    await play([mono, wide], {});
    await giveAll();
    expect(inRing(mono, 500)).toBe((sample('x', 500, 0) + sample('x', 500, 1)) / 2);
    expect([inRing(wide, 500, 0), inRing(wide, 500, 1)]).toEqual([sample('y', 500, 0), sample('y', 500, 0)]);
  });

  it('asks a server that is away again at the next turn, and not at once', async () => {
    const s = source('a');
    await play([s], {});
    await asked.shift()!.refuse();
    expect(names).toEqual(['a 0']);
    feeder.fill();
    await settle();
    expect(names).toEqual(['a 0', 'a 0']);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
  });

  it('goes on ahead of the playhead where a stem came late', async () => {
    const [a, late] = [source('a'), source('z')];
    await play([a, late], {});
    playedTo(20_000);
    await asked.find((x) => x.name === 'z 0')!.give();
    const from = Atomics.load(ringViews(late.ring, 1).head, 2);
    expect(from).toBe(22_048);
    expect(inRing(late, from)).toBe(sample('z', from, 0));
  });

  it('leaves the rings of what plays alone while the next generation comes, and forgets what nobody waits for', async () => {
    const s = source('a');
    await play([s], {});
    await giveAll();
    playedTo(1000);
    await giveAll();
    const before = inRing(s, 1000);
    feeder.hear({ type: 'cue', generation: 2, cue: { start: 3 * PIECE_FRAMES, loopStart: 0, loopEnd: 0 } });
    feeder.hear({ type: 'cue', generation: 4, cue: { start: 6 * PIECE_FRAMES, loopStart: 0, loopEnd: 0 } });
    await giveAll();
    expect(inRing(s, 1000)).toBe(before);
    expect(Atomics.load(control, CONTROL.ready)).toBe(4);
    expect(inRing(s, 10, 0, 4)).toBe(sample('a', 6 * PIECE_FRAMES + 10, 0));
  });

  it('has at most four pieces under way at once, of two hundred sources', async () => {
    const many = Array.from({ length: 200 }, (_, i) => source(String.fromCodePoint(200 + i)));
    await play(many, {});
    await settle();
    expect(names).toHaveLength(4);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
  });
});
