import fc from 'fast-check';
import { beforeEach, describe, expect, it } from 'vitest';
import { Feeder, type FeedSource, type LateSource } from './feeder';
import { joined, kept, sample, source } from '@/testing/feeds';
import { CONTROL, CONTROL_WORDS, ringNext, ringViews, RING_FRAMES, songAt, type Cue } from './shared';
import { SLICE_FRAMES, StemsGone, type FetchSlices } from './slices';

const memory = new SharedArrayBuffer(CONTROL_WORDS * 4);
const control = new Int32Array(memory);
/** Slices that were asked for and are not answered yet, and how many questions there were. */
let asked: { name: string; give(): Promise<void>; refuse(error?: Error): Promise<void> }[];
let questions: number;
let names: string[];
let milliseconds: number;
let feeder: Feeder;
let told: LateSource[];
let generation = 0;

const settle = async () => {
  for (let i = 0; i < 6; i++) await Promise.resolve();
  await new Promise(setImmediate);
};
const channelsOf = new Map<string, number>();
const framesOf = new Map<string, number>();
beforeEach(() => {
  control.fill(0);
  asked = [];
  names = [];
  channelsOf.clear();
  questions = milliseconds = 0;
  const ask: FetchSlices = (slices, take, signal) => {
    questions++;
    let unanswered = slices.length;
    return new Promise((done, fail) => {
      signal.addEventListener('abort', () => fail(new Error('aborted')));
      for (const [number, { stem, start, frames }] of slices.entries()) {
        const name = `${stem} ${start / SLICE_FRAMES}`;
        expect(frames).toBe(SLICE_FRAMES);
        names.push(name);
        asked.push({
          name,
          async give() {
            const left = framesOf.get(stem)! - start;
            take(number, kept(stem, start, Math.min(frames, left), channelsOf.get(stem)!));
            if (--unanswered === 0) done();
            await settle();
          },
          async refuse(error = new Error('away')) {
            fail(error);
            await settle();
          },
        });
      }
    });
  };
  told = [];
  feeder = new Feeder(
    ask,
    () => milliseconds,
    ({ sources }) => void told.push(...sources),
  );
  feeder.hear({ type: 'start', control: memory });
});
async function play(sources: readonly FeedSource[], cue: Partial<Cue>, generation = 1) {
  for (const s of sources)
    if (s.stem) {
      channelsOf.set(s.stem, s.stemChannels);
      framesOf.set(s.stem, s.stemFrames);
    }
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
    // One question for both, what is heard first in front.
    expect([names, questions]).toEqual([['a 0', 'b 0', 'a 1', 'b 1'], 1]);
    await asked.shift()!.give();
    expect(there(a)).toBe(SLICE_FRAMES - 1000);
    for (let k = 0; k < 3; k++) {
      expect(Atomics.load(control, CONTROL.ready)).toBe(0);
      await asked.shift()!.give();
    }
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    await giveAll();
    expect([there(a), there(b)]).toEqual([RING_FRAMES - 512, RING_FRAMES - 512]);
    expect([...control.slice(CONTROL.cues + 3, CONTROL.cues + 6)]).toEqual([1000, 0, 0]);
    for (const frame of [0, 1, 777, RING_FRAMES - 513])
      expect(inRing(a, frame)).toBe(sample('a', 1000 + frame, 0));
  });

  it('begins later where answers take long, so that what comes next is there in time', async () => {
    const s = source('s');
    await play([s], {});
    // A third of a second is enough where the answer took a tenth.
    milliseconds = 100;
    await asked.shift()!.give();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);

    feeder.hear({ type: 'cue', generation: 2, cue: { start: 3 * SLICE_FRAMES, loopStart: 0, loopEnd: 0 } });
    await settle();
    asked = asked.filter((a) => a.name === 's 3');
    milliseconds += 500;
    await asked.shift()!.give();
    // Half a second for one: it waits for more, and no longer than a ring holds.
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(2);
    feeder.hear({ type: 'cue', generation: 3, cue: { start: 0, loopStart: 0, loopEnd: 0 } });
    await settle();
    milliseconds += 60_000;
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(3);
  });

  it('keeps up with the playhead through pieces and rings, to the frame, in stereo', async () => {
    const s = source('s', { channels: 2 });
    await play([s], { start: 5 });
    await giveAll();
    for (let clock = 0; clock < 8 * SLICE_FRAMES; clock += 4096) {
      playedTo(clock);
      await giveAll();
      expect(there(s)).toBeGreaterThan(clock + 6144);
      for (const frame of [clock, clock + 4095])
        for (const c of [0, 1]) expect(inRing(s, frame, c)).toBe(sample('s', 5 + frame, c));
    }
    // Each slice once, however the rings go round.
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

  it.each([
    ['within a slice', 50_000, 70_000],
    ['over two slices', 2 * SLICE_FRAMES + 100, 70_000],
    ['of which nothing stands before', 0, 30_000],
    ['that is shorter than the way takes', 40_000, 40_100],
  ])(
    'goes over from a loop’s end into what stands before its start, so that the start comes whole: one %s',
    async (_, loopStart, loopEnd) => {
      const cue = { start: Math.max(loopStart, loopEnd - 1000), loopStart, loopEnd };
      const s = source('l', { channels: 2 });
      await play([s], cue);
      await giveAll();
      const jump = loopEnd - cue.start;
      for (let frame = Math.max(0, jump - 400); frame < jump + 50; frame++)
        for (const c of [0, 1]) expect(inRing(s, frame, c)).toBeCloseTo(joined(s, cue, frame, c), 0);
      const last = loopStart > 0 ? sample('l', loopStart - 1, 1) : 0;
      expect(inRing(s, jump - 1, 1)).toBe(last);
      expect(inRing(s, jump, 1)).toBe(sample('l', loopStart, 1));
    },
  );

  it('gives silence where a strip has no stem, and after the stem’s end', async () => {
    const [none, short] = [source('n', { stem: null }), source('e', { stemFrames: SLICE_FRAMES })];
    await play([none, short], { start: SLICE_FRAMES - 100 });
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    expect(inRing(short, 99)).toBe(sample('e', SLICE_FRAMES - 1, 0));
    expect([inRing(short, 100), inRing(short, 9000), inRing(none, 0)]).toEqual([0, 0, 0]);
    expect(names).toEqual(['e 0']);
  });

  it('plays stems that end anywhere to their last frame, and silence after it, also around a loop', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 3 * SLICE_FRAMES }), fc.constantFrom(1, 2)), {
          minLength: 1,
          maxLength: 4,
        }),
        fc.integer({ min: 0, max: 3 * SLICE_FRAMES }),
        fc.option(fc.tuple(fc.nat(2 * SLICE_FRAMES), fc.integer({ min: 2000, max: 40_000 }))),
        async (stems, start, loop) => {
          generation++;
          control.fill(0);
          const cue = loop
            ? { start: Math.min(start, loop[0]), loopStart: loop[0], loopEnd: loop[0] + loop[1] }
            : { start, loopStart: 0, loopEnd: 0 };
          const sources = stems.map(([stemFrames, channels], i) =>
            source(`${i}${generation}`, { stemFrames, channels: channels as 1 | 2 }),
          );
          await play(sources, cue, generation);
          await giveAll();
          expect(Atomics.load(control, CONTROL.ready)).toBe(generation);
          for (let clock = 0; clock < 2.5 * SLICE_FRAMES; clock += 6000) {
            playedTo(clock, generation);
            await giveAll();
            for (const s of sources)
              for (const frame of [clock, clock + 1234, clock + 5999])
                for (let c = 0; c < s.channels; c++)
                  expect(inRing(s, frame, c, generation)).toBeCloseTo(joined(s, cue, frame, c), 0);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('folds a stereo stem for a mono strip, and gives a mono one to both sides', async () => {
    const [mono, wide] = [source('x', { stemChannels: 2 }), source('y', { channels: 2, stemChannels: 1 })];
    await play([mono, wide], {});
    await giveAll();
    expect(inRing(mono, 500)).toBe((sample('x', 500, 0) + sample('x', 500, 1)) / 2);
    expect([inRing(wide, 500, 0), inRing(wide, 500, 1)]).toEqual([sample('y', 500, 0), sample('y', 500, 0)]);
  });

  it('asks a server that is away again a while later, and ever later', async () => {
    const s = source('a');
    await play([s], {});
    await asked.shift()!.refuse();
    expect(names).toEqual(['a 0']);
    asked = [];
    feeder.fill();
    await settle();
    expect(names).toEqual(['a 0']);
    milliseconds += 100;
    feeder.fill();
    await settle();
    expect(names).toEqual(['a 0', 'a 0']);
    // Each time it waits twice as long, and two seconds at the most.
    for (const wait of [200, 400, 800, 1600, 2000, 2000]) {
      const before = names.length;
      await asked.pop()!.refuse();
      milliseconds += wait - 1;
      feeder.fill();
      expect(names.length).toBe(before);
      milliseconds += 1;
      feeder.fill();
      await settle();
      expect(names.length).toBe(before + 1);
    }
    asked = asked.slice(-1);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
  });

  it('goes on ahead of the playhead where a stem came late', async () => {
    const [a, late] = [source('a'), source('z')];
    await play([a, late], {});
    playedTo(20_000);
    await settle();
    // What lies behind the playhead by now is of no use any more.
    await asked.find((x) => x.name === 'z 1')!.give();
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
    feeder.hear({ type: 'cue', generation: 2, cue: { start: 3 * SLICE_FRAMES, loopStart: 0, loopEnd: 0 } });
    feeder.hear({ type: 'cue', generation: 4, cue: { start: 6 * SLICE_FRAMES, loopStart: 0, loopEnd: 0 } });
    await giveAll();
    expect(inRing(s, 1000)).toBe(before);
    expect(Atomics.load(control, CONTROL.ready)).toBe(4);
    expect(inRing(s, 10, 0, 4)).toBe(sample('a', 6 * SLICE_FRAMES + 10, 0));
  });

  it('asks for the beginning of two hundred stems in one question, and for what comes after them then', async () => {
    const many = Array.from({ length: 200 }, (_, i) => source(String.fromCodePoint(200 + i)));
    await play(many, { start: SLICE_FRAMES - 10 });
    // Ten frames of the first slice are no beginning: the second is asked for with it, behind the first of every stem.
    expect(names.slice(0, 200).every((n) => n.endsWith(' 0'))).toBe(true);
    expect(names.slice(200).every((n) => n.endsWith(' 1'))).toBe(true);
    expect([names.length, questions]).toEqual([400, 2]);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    for (const s of many) expect(there(s)).toBeGreaterThan(6144);
  });
  it('lets go of what it asked for where somebody jumps elsewhere', async () => {
    const s = source('a');
    await play([s], {});
    feeder.hear({ type: 'cue', generation: 2, cue: { start: 5 * SLICE_FRAMES, loopStart: 0, loopEnd: 0 } });
    await settle();
    expect(names).toEqual(['a 0', 'a 5']);
    // What was given up may come yet: it is not heard.
    await asked.shift()!.give();
    expect(there(s, 2)).toBe(0);
    await giveAll();
    expect(Atomics.load(control, CONTROL.ready)).toBe(2);
    expect(inRing(s, 3, 0, 2)).toBe(sample('a', 5 * SLICE_FRAMES + 3, 0));
  });

  it('fetches beginnings before anybody plays, and plays from them at once', async () => {
    const [a, b] = [source('a'), source('b', { stemFrames: 3 * SLICE_FRAMES })];
    for (const s of [a, b]) channelsOf.set(s.stem!, 1);
    const stems = [a, b].map((s) => ({ stem: s.stem!, frames: s.stemFrames }));
    feeder.hear({ type: 'warm', stems, start: 0 });
    await settle();
    expect([names, questions]).toEqual([['a 0', 'b 0'], 1]);
    // It is put elsewhere: behind the end of one, across a border of slices of the other.
    feeder.hear({ type: 'warm', stems, start: 3 * SLICE_FRAMES + 5 });
    await giveAll();
    expect(names.slice(2)).toEqual(['a 3', 'a 4']);
    const before = names.length;
    await play([a, b], { start: 3 * SLICE_FRAMES + 5 });
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    expect(inRing(a, 100)).toBe(sample('a', 3 * SLICE_FRAMES + 105, 0));
    expect(names.slice(before)).not.toContain('a 3');
  });

  it('tells which sources fell behind, and why, now and then', async () => {
    const [a, b] = [source('a'), source('b')];
    await play([a, b], {});
    await giveAll();
    playedTo(1000);
    await giveAll();
    expect(told).toEqual([]);
    // Nothing comes any more: what is there is played to its end.
    milliseconds += 1000;
    const least = Math.min(there(a), there(b));
    playedTo(least);
    milliseconds += 500;
    playedTo(least + 60_000);
    expect(told.map(({ strip, why }) => [strip, why])).toEqual([
      ['a', 'slow'],
      ['b', 'slow'],
    ]);
    expect(told[0]!.waits).toBeGreaterThanOrEqual(0);
    // Not at each turn of forty a second.
    const before = told.length;
    playedTo(least + 130_000);
    playedTo(least + 200_000);
    expect(told.length).toBe(before);
    await asked[0]!.refuse();
    milliseconds += 300;
    playedTo(least + 270_000);
    expect(told.slice(before).map(({ why }) => why)).toEqual(['away', 'away']);
  });

  it('does not wait for a stem that is not on the server any more: it is silent, and is told', async () => {
    const [a, b] = [source('a'), source('b')];
    await play([a, b], {});
    const [first, second] = [asked.shift()!, asked.shift()!];
    await first.give();
    expect(Atomics.load(control, CONTROL.ready)).toBe(0);
    await second.refuse(new StemsGone('gone', ['b']));
    expect(Atomics.load(control, CONTROL.ready)).toBe(1);
    expect([inRing(a, 9), inRing(b, 9)]).toEqual([sample('a', 9, 0), 0]);
    milliseconds += 300;
    feeder.fill();
    expect(told.map(({ strip, why }) => [strip, why])).toContainEqual(['b', 'gone']);
    expect(told.some(({ strip }) => strip === 'a')).toBe(false);
    // It is asked for again in a while, not at each turn.
    expect(names.filter((n) => n.startsWith('b'))).toEqual(['b 0']);
    milliseconds += 5000;
    playedTo(20_000);
    await settle();
    expect(names.filter((n) => n.startsWith('b')).length).toBeGreaterThan(1);
  });
});
