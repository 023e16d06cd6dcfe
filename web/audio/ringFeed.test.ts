import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bow } from '@core/base/jump';
import { compilePlan } from '@core/plan/compile';
import { BLOCK, FEED_BLOCKS } from '@core/plan/layout';
import { newInsert, newSession, newStrip } from '@core/session/defaults';
import type { Session } from '@core/session/types';
import { Engine } from '@engine/engine';
import { engineModule } from '@engine/testing/run';
import { RingFeed } from './ringFeed';
import { ringBytes, ringFrom, ringNext, RING_SERIAL, ringViews, RING_FRAMES } from './shared';

const CHANNELS = { mono: 1, pair: 2, other: 1, ringless: 1 } as const;
type Id = keyof typeof CHANNELS;
const ids = Object.keys(CHANNELS) as Id[];

function session(faders: number, without: readonly Id[] = []): Session {
  const base = newSession('Rings');
  const source = (id: Id) =>
    newStrip({
      id,
      kind: 'source',
      name: id,
      channels: CHANNELS[id],
      trimDb: -2,
      faderDb: faders,
      // Something that remembers: a block that came too late or twice would be heard.
      inserts: id === 'mono' ? [newInsert({ id: 'eq', type: 'equalizer', params: { bell1Gain: 6 } })] : [],
      out: { to: 'main', on: true },
    });
  return { ...base, strips: [...ids.filter((id) => !without.includes(id)).map(source), ...base.strips] };
}

/** What stands in a strip's ring for a frame of a generation. */
const sample = (id: Id, channel: number, generation: number, frame: number) =>
  Math.fround(Math.sin(frame * 0.7 + channel + generation * 5 + id.length * 11) * 0.4);

type Event =
  | { readonly kind: 'run'; readonly blocks: number }
  /** So many frames more stand in a strip's ring. */
  | { readonly kind: 'fill'; readonly strip: Id; readonly frames: number }
  /** Another plan. */
  | { readonly kind: 'plan'; readonly fader: number; readonly without: readonly Id[] }
  /** A strip begins anew ahead of what is played. */
  | { readonly kind: 'leap'; readonly strip: Id }
  /** Another place is played. */
  | { readonly kind: 'cue' };

/** Both are told the same: an engine by the rings, and one by hand, block by block, by what the rings were said to hold. */
function held(events: readonly Event[]) {
  const rings = new Map<Id, SharedArrayBuffer>(
    ids.filter((id) => id !== 'ringless').map((id) => [id, new SharedArrayBuffer(ringBytes(CHANNELS[id]))]),
  );
  const views = new Map<Id, ReturnType<typeof ringViews>>(
    [...rings].map(([id, ring]) => [id, ringViews(ring, CHANNELS[id])]),
  );
  const sources = [...rings].map(([strip, ring]) => ({ strip, channels: CHANNELS[strip], ring }));
  const [played, byHand] = [new Engine(engineModule), new Engine(engineModule)] as const;
  for (const [k, { head }] of [...views.values()].entries()) head[RING_SERIAL] = k + 1;
  const feed = new RingFeed(played);
  feed.offer(sources);
  let plan = compilePlan(session(-3), { capture: ['main'] });
  for (const e of [played, byHand]) e.load(plan);
  let adopted: unknown = null;
  let generation = 1;
  let clock = 0;
  let level = 0;
  let many = 0;
  let dropouts = 0;
  let expected = 0;
  const heard = new Map<string, number>();
  const span = (id: Id) => {
    const head = views.get(id)?.head;
    return head ? [head[ringFrom(generation & 1)]!, head[ringNext(generation & 1)]!] : [0, 0];
  };
  const block = () => {
    if (played.plan !== adopted) {
      feed.adopt((adopted = played.plan!) as typeof plan);
      // A strip that was gone joins anew when it is back.
      for (const id of ids) if (!played.plan!.sources.some((t) => t.strip === id)) heard.delete(id);
    }
    const from = level;
    const fed = feed.next(generation, clock, from, 1);
    if (fed > 0) many++;
    if (feed.late) dropouts++;
    level = 1;
    played.run(fed);
    let late = false;
    byHand.plan!.sources.forEach(({ strip, channels }, s) => {
      const [first, next] = span(strip as Id) as [number, number];
      const there = strip !== 'ringless' && clock >= first && clock + BLOCK <= next;
      if (strip !== 'ringless' && !there && clock >= first && next > first) late = true;
      const joins = there && from === 1 && heard.get(strip) !== generation;
      heard.set(strip, there ? generation : 0);
      for (let c = 0; c < channels; c++)
        for (let i = 0; i < BLOCK; i++)
          byHand.input(s, c)[i] = there
            ? sample(strip as Id, c, generation, clock + i) *
              (joins ? bow((i + 1) / BLOCK) : from + (1 - from) * bow((i + 1) / BLOCK))
            : 0;
    });
    if (late) expected++;
    byHand.run();
    clock += BLOCK;
    for (let c = 0; c < 2; c++)
      if (
        !Buffer.from(played.output(0, c).slice().buffer).equals(
          Buffer.from(byHand.output(0, c).slice().buffer),
        )
      )
        throw new Error(`Differs at frame ${clock - BLOCK}, channel ${c}.`);
  };
  for (const e of events)
    if (e.kind === 'run') for (let b = 0; b < e.blocks; b++) block();
    else if (e.kind === 'fill' || e.kind === 'leap') {
      const view = views.get(e.strip);
      if (!view) continue;
      const parity = generation & 1;
      if (e.kind === 'leap') {
        // As the feeder does to what has fallen behind.
        if (view.head[ringNext(parity)]! >= clock) continue;
        view.head[ringFrom(parity)] = view.head[ringNext(parity)] = clock + 2048;
        continue;
      }
      const next = view.head[ringNext(parity)]!;
      const until = Math.min(next + e.frames, clock + RING_FRAMES - 512);
      for (let at = next; at < until; at++)
        view.audio[parity]!.forEach(
          (ring, c) => (ring[at % RING_FRAMES] = sample(e.strip, c, generation, at)),
        );
      if (until > next) view.head[ringNext(parity)] = until;
    } else if (e.kind === 'plan') {
      plan = compilePlan(session(e.fader, e.without), { capture: ['main'] });
      for (const engine of [played, byHand]) engine.load(plan);
      // A message brings the same memory as another object.
      feed.offer(sources.map((s) => ({ ...s, ring: structuredClone(s.ring) })));
    } else {
      generation++;
      clock = 0;
      level = 0;
      for (const { head } of views.values())
        head[ringFrom(generation & 1)] = head[ringNext(generation & 1)] = 0;
    }
  return { many, dropouts, expected };
}

const fillAll = (frames: number): Event[] => ids.map((strip) => ({ kind: 'fill', strip, frames }));

describe('stems from their rings', () => {
  it('come many blocks at once where all are there, and to the bit as one by one', () => {
    // Twice round the rings.
    const round: Event[] = [...fillAll(30000), { kind: 'run', blocks: 200 }];
    const { many, dropouts } = held([...round, ...round, ...round]);
    // All but the first, in which it begins, and the rest of its eight; of eight the first stands where a single one does.
    expect(many).toBe(((600 - FEED_BLOCKS) * (FEED_BLOCKS - 1)) / FEED_BLOCKS);
    expect(dropouts).toBe(0);
  });
  it('come one by one where one stem is late, which is counted, and many at once when it is there again', () => {
    const { many, dropouts, expected } = held([
      ...fillAll(30000).filter((e) => e.kind !== 'fill' || e.strip !== 'pair'),
      { kind: 'fill', strip: 'pair', frames: 10 * BLOCK },
      { kind: 'run', blocks: 30 },
      { kind: 'leap', strip: 'pair' },
      { kind: 'fill', strip: 'pair', frames: 20000 },
      { kind: 'run', blocks: 100 },
    ]);
    // From the eleventh block to the thirtieth.
    expect([dropouts, expected]).toEqual([20, 20]);
    // Of 130 blocks: eight at the beginning, then from the next eighth after 30 and 16 blocks; without the first of each eight.
    expect(many).toBe(82 - 11);
  });
  it('are the same whatever comes in between: plans, strips that come and go, other places, gaps', () => {
    const strip = fc.constantFrom(...ids);
    const event: fc.Arbitrary<Event> = fc.oneof(
      {
        weight: 5,
        arbitrary: fc.record({ kind: fc.constant('run' as const), blocks: fc.integer({ min: 1, max: 40 }) }),
      },
      {
        weight: 4,
        arbitrary: fc.record({
          kind: fc.constant('fill' as const),
          strip,
          frames: fc.integer({ min: 1, max: 9000 }),
        }),
      },
      {
        weight: 1,
        arbitrary: fc.record({
          kind: fc.constant('plan' as const),
          fader: fc.integer({ min: -20, max: 6 }),
          without: fc.uniqueArray(strip, { maxLength: 2 }),
        }),
      },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('leap' as const), strip }) },
      { weight: 1, arbitrary: fc.constant({ kind: 'cue' as const }) },
    );
    let many = 0;
    fc.assert(
      fc.property(fc.array(event, { minLength: 5, maxLength: 25 }), (events) => {
        const found = held([...fillAll(5000), ...events]);
        expect(found.dropouts).toBe(found.expected);
        many += found.many;
      }),
      { numRuns: 60 },
    );
    expect(many).toBeGreaterThan(500);
  });
});
