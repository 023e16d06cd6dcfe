import { BLOCK, FEED_BLOCKS } from '@core/plan/layout';
import { bow } from '@core/base/jump';
import type { Plan } from '@core/plan/plan';
import type { Samples } from '@core/base/units';
import type { Engine } from '@engine/engine';
import { copyPairs, PAIRS, touchBlocks } from './ringBlock';
import {
  ringFrom,
  ringNext,
  RING_SERIAL,
  ringViews,
  RING_WORDS,
  RING_FRAMES,
  type RingViews,
} from './shared';

export interface WorkletSource {
  readonly strip: string;
  readonly channels: 1 | 2;
  readonly ring: SharedArrayBuffer;
}

const MANY = FEED_BLOCKS * BLOCK;

/** A ring, and views of its parts of so many blocks, [generation parity][channel][part], made when they are first read. */
interface PartedRing extends RingViews {
  /** The generation of which it gave the last block; 0 where it gave none. */
  heard: number;
  readonly parts: readonly (readonly Float64Array[][])[];
}
const parted = (memory: SharedArrayBuffer, channels: number): PartedRing => {
  const views = ringViews(memory, channels);
  return { ...views, heard: 0, parts: views.pairs.map((list) => list.map(() => [])) };
};
/** The host copies a large part in one go faster than any loop does. */
function partOf(ring: PartedRing, parity: number, channel: number, frame: Samples): Float64Array {
  const parts = ring.parts[parity]![channel]!;
  const k = Math.floor((frame % RING_FRAMES) / MANY);
  return (parts[k] ??= ring.pairs[parity]![channel]!.subarray((k * MANY) / 2, ((k + 1) * MANY) / 2));
}

/**
 * Brings the engine its stems from the rings: FEED_BLOCKS at once where all rings hold as many, which costs a third of what they cost one by
 * one; and by single blocks where what is played begins or ends, or is not all there.
 */
export class RingFeed {
  private sources = new Map<string, WorkletSource>();
  private rings: (PartedRing | null)[] = [];
  private channels: number[] = [];
  private known = new Map<string, PartedRing>();
  /** The first frame of what stands in the engine's room, and of which generation it is; 0: of none. */
  private first: Samples = 0;
  private generation = 0;

  constructor(private readonly engine: Engine) {}

  /** Says where the stems of plans to come are found. */
  offer(sources: readonly WorkletSource[]): void {
    this.sources = new Map(sources.map((s) => [s.strip, s]));
  }

  /** Finds the rings for the plan that the engine runs now. */
  adopt(plan: Plan): void {
    this.rings = plan.sources.map((s) => {
      const source = this.sources.get(s.strip);
      if (!source || source.channels !== s.channels) return null;
      const before = this.known.get(s.strip);
      // A message brings the same memory as another object.
      const serial = new Int32Array(source.ring, 0, RING_WORDS)[RING_SERIAL];
      return before && before.head[RING_SERIAL] === serial ? before : parted(source.ring, source.channels);
    });
    this.known = new Map(plan.sources.flatMap((s, i) => (this.rings[i] ? [[s.strip, this.rings[i]]] : [])));
    this.channels = plan.sources.map((s) => s.channels);
    this.generation = 0;
  }

  /** Whether a stem was not there in time, in the block that `next` brought last. */
  late = false;

  /**
   * Brings the next block.
   * @param generation that plays; 0: none
   * @param clock frames of it that have been played
   * @param from the level at the block's start, 0 or 1, and
   * @param to at its end
   * @returns which block of its room the engine is to take
   */
  next(generation: number, clock: Samples, from: number, to: number): number {
    this.late = false;
    const whole = generation !== 0 && from === 1 && to === 1;
    if (whole && (this.stands(generation, clock) || this.bringMany(generation, clock)))
      return (clock - this.first) >> 7;
    this.bringOne(generation, clock, from, to);
    return 0;
  }

  private stands(generation: number, clock: Samples) {
    return generation === this.generation && clock >= this.first && clock < this.first + MANY;
  }

  /** Where rings divide into as many blocks, and all of them are there. @returns whether it has brought them */
  private bringMany(generation: number, clock: Samples): boolean {
    if (clock % MANY !== 0) return false;
    const parity = generation & 1;
    for (let s = 0; s < this.rings.length; s++) {
      const views = this.rings[s];
      if (!views) continue;
      const next = Atomics.load(views.head, ringNext(parity));
      if (views.heard !== generation || clock < views.head[ringFrom(parity)]! || clock + MANY > next)
        return false;
    }
    for (let s = 0; s < this.rings.length; s++) {
      const ring = this.rings[s];
      for (let c = 0; c < this.channels[s]!; c++) {
        const room = this.engine.feedPairs(s, c);
        if (ring) room.set(partOf(ring, parity, c, clock));
        else room.fill(0);
      }
    }
    this.first = clock;
    this.generation = generation;
    return true;
  }

  private bringOne(generation: number, clock: Samples, from: number, to: number) {
    // What stood there of several is overwritten.
    this.generation = 0;
    const playing = generation !== 0;
    const parity = generation & 1;
    const at = (clock % RING_FRAMES) >> 1;
    if (playing) touchBlocks(this.rings, parity, at);
    for (let s = 0; s < this.rings.length; s++) {
      const views = this.rings[s];
      const channels = this.channels[s]!;
      const next = views ? Atomics.load(views.head, ringNext(parity)) : 0;
      // Written before that was.
      const first = views ? views.head[ringFrom(parity)]! : 0;
      const there = views && playing && clock >= first && clock + BLOCK <= next;
      // A strip that joins while rolling begins when its first frames are there: that is no dropout.
      if (views && playing && !there && clock >= first && next > first) this.late = true;
      // What joins while others play, or was late, comes up within a block.
      const joins = there && from === 1 && views.heard !== generation;
      if (views) views.heard = there ? generation : 0;
      for (let c = 0; c < channels; c++) {
        const input = this.engine.input(s, c);
        if (!there) {
          input.fill(0);
          continue;
        }
        copyPairs(views.pairs[parity]![c]!, at, this.engine.inputPairs(s, c), PAIRS);
        if (joins) for (let i = 0; i < BLOCK; i++) input[i]! *= bow((i + 1) / BLOCK);
        if (from !== 1 || to !== 1)
          for (let i = 0; i < BLOCK; i++) input[i]! *= from + (to - from) * bow((i + 1) / BLOCK);
      }
    }
  }
}
