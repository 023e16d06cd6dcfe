import { bow } from '@core/base/jump';
import { channelInto } from '@core/formats/audio/samples';
import {
  CONTROL,
  JOIN_FRAMES,
  joinOf,
  ringFrom,
  ringNext,
  ringViews,
  RING_FRAMES,
  songAt,
  untilJump,
  type Cue,
  type RingViews,
} from './shared';
import { SliceShelf, type WhyLate } from './sliceShelf';
import { SLICE_FRAMES, type FetchSlices, type KeptSlice } from './slices';

/** A source strip and the ring that it plays from. */
export interface FeedSource {
  readonly strip: string;
  readonly channels: 1 | 2;
  readonly stem: string | null;
  readonly stemChannels: number;
  readonly stemFrames: number;
  readonly ring: SharedArrayBuffer;
}
export type FeederMessage =
  | { readonly type: 'start'; readonly control: SharedArrayBuffer }
  | { readonly type: 'sources'; readonly sources: readonly FeedSource[] }
  | { readonly type: 'cue'; readonly generation: number; readonly cue: Cue }
  /** It may be played from here soon: the beginnings of these stems are fetched before anybody waits for them. */
  | { readonly type: 'warm'; readonly stems: readonly WarmStem[]; readonly start: number };
export interface WarmStem {
  readonly stem: string;
  readonly frames: number;
}
/** Told to the page: sources that were not there in time, and why. */
export interface LateSource {
  readonly strip: string;
  readonly why: WhyLate;
  /** Milliseconds for which the server has not answered. */
  readonly waits: number;
}
export interface FeederReport {
  readonly type: 'late';
  readonly sources: readonly LateSource[];
}

/** Frames that have to be there of every source before a generation may be played: a third of a second, in which the next slices come. */
const READY_FRAMES = 16384;
/** How far beyond the rings slices are fetched, in frames. */
const AHEAD = 3 * SLICE_FRAMES;
/** The most that is waited for before it plays. */
const MOST_READY = READY_FRAMES + AHEAD;
/** Frames a second of material by which a question's time is counted: the usual rates need no more. */
const USUAL_RATE = 48_000;
/** As much longer than the slowest question the next may take. */
const SPARE = 1.6;
/** Frames by which a source that fell behind goes on ahead of the playhead. */
const LEAP = 2048;
/** Milliseconds between two words to the page of what is late. */
const TELL = 250;

interface Feed extends FeedSource {
  readonly views: RingViews;
}

/**
 * Fills the rings of an engine's sources with what is to be played next, and says when enough of a generation is there to play
 * it. What comes first is fetched first, of all stems in one question. It writes into memory that the audio thread reads: one
 * writer for each word (shared.ts).
 */
export class Feeder {
  private control: Int32Array | null = null;
  private feeds: readonly Feed[] = [];
  private generation = 0;
  private cue: Cue = { start: 0, loopStart: 0, loopEnd: 0 };
  private warm: { readonly stems: readonly WarmStem[]; readonly start: number } = { stems: [], start: 0 };
  private readonly shelf: SliceShelf;
  /** The right side of what is folded. */
  private readonly other = new Float32Array(SLICE_FRAMES);
  /** What stands before a loop's start, of two channels. */
  private readonly before = [new Float32Array(JOIN_FRAMES), new Float32Array(JOIN_FRAMES)];
  private filling = false;
  private readonly late = new Map<string, LateSource>();
  private toldAt = -Infinity;

  /**
   * @param now milliseconds that go by
   * @param tell tells the page what came late
   */
  constructor(
    fetchSlices: FetchSlices,
    private readonly now: () => number = () => performance.now(),
    private readonly tell: (report: FeederReport) => void = () => {},
  ) {
    this.shelf = new SliceShelf(fetchSlices, () => this.fillSoon(), now);
  }

  /** Sources that have a stem. */
  private get stems(): number {
    return this.feeds.reduce((n, f) => n + (f.stem === null ? 0 : 1), 0);
  }
  /**
   * Frames that have to be there before it plays: those in which the next slices come, by how long the last ones took. A machine
   * that is busy otherwise begins a little later, and has all of the mix.
   */
  private get readyFrames(): number {
    const next = (this.shelf.expected(this.stems) / 1000) * USUAL_RATE * SPARE;
    return Math.max(READY_FRAMES, Math.min(MOST_READY, Math.ceil(next)));
  }

  /** Fills with all that has come at once. */
  private fillSoon() {
    if (this.filling) return;
    this.filling = true;
    queueMicrotask(() => {
      this.filling = false;
      this.fill();
    });
  }

  /** Writes what is there into the rings, and asks for what is not. */
  fill() {
    const { control, generation } = this;
    const needed = new Set<string>();
    if (control && generation !== 0) this.play(control, needed);
    this.warmUp(needed);
    this.shelf.keep(needed);
    this.shelf.ask();
    this.tellLate();
  }

  private play(control: Int32Array, needed: Set<string>) {
    const { generation, cue } = this;
    const parity = generation & 1;
    const started = Atomics.load(control, CONTROL.playing) === generation;
    const clock = started ? Atomics.load(control, CONTROL.clock) : 0;
    const ready = Atomics.load(control, CONTROL.ready) === generation;
    const nexts = this.feeds.map((feed) => this.fillRing(feed, parity, clock, started));
    const held = this.feeds.map((feed, k) => nexts[k]! - clock + this.heldBehind(feed, nexts[k]!));
    const least = Math.min(Infinity, ...held);
    // Until all can begin, no more is asked for than that needs.
    const enough = ready || least >= READY_FRAMES;
    for (const [k, feed] of this.feeds.entries()) {
      if (feed.stem === null) continue;
      const there = nexts[k]! - clock;
      const reach = enough ? AHEAD : READY_FRAMES - there;
      const want = (number: number, ahead: number) => {
        needed.add(`${feed.stem} ${number}`);
        this.shelf.want(feed.stem!, number, there + ahead);
        return true;
      };
      this.each(feed, nexts[k]!, reach, want);
      this.beforeLoop(feed, nexts[k]!, reach, want);
    }
    if (!ready && least >= this.readyFrames) {
      const base = CONTROL.cues + parity * 3;
      Atomics.store(control, base, cue.start);
      Atomics.store(control, base + 1, cue.loopStart);
      Atomics.store(control, base + 2, cue.loopEnd);
      Atomics.store(control, CONTROL.ready, generation);
    }
  }

  /** Fills a source's ring as far as its slices are there. @returns the frame of the generation up to which it is filled */
  private fillRing(feed: Feed, parity: number, clock: number, started: boolean): number {
    const { cue } = this;
    const { head } = feed.views;
    let next = Atomics.load(head, ringNext(parity));
    if (next < clock) {
      // It came late, or fell behind: it goes on a little ahead of the playhead.
      if (started && next > 0 && feed.stem !== null) this.fellBehind(feed.strip, feed.stem);
      next = clock + (started ? LEAP : 0);
      Atomics.store(head, ringFrom(parity), next);
      Atomics.store(head, ringNext(parity), next);
    }
    const until = clock + RING_FRAMES - 512;
    while (next < until) {
      const song = songAt(cue, next);
      const jump = untilJump(cue, next);
      const join = jump - joinOf(cue);
      /** What stands before the loop's start, in the last frames before its end. */
      const before = join > 0 ? null : song - (cue.loopEnd - cue.loopStart);
      const n = Math.min(
        until - next,
        RING_FRAMES - (next % RING_FRAMES),
        join > 0 ? join : jump,
        SLICE_FRAMES - (song % SLICE_FRAMES),
        before === null ? Infinity : before < 0 ? -before : SLICE_FRAMES - (before % SLICE_FRAMES),
      );
      // It comes with what the loop begins with.
      if (before !== null && this.about(feed, before) === undefined) break;
      const at = next % RING_FRAMES;
      const rings = feed.views.audio[parity]!;
      if (feed.stem === null || song >= feed.stemFrames || this.shelf.isGone(feed.stem)) {
        // Of a stem that is not there any more, the others do not wait.
        if (feed.stem !== null && song < feed.stemFrames) this.fellBehind(feed.strip, feed.stem);
        for (const ring of rings) ring.fill(0, at, at + n);
      } else {
        const slice = this.shelf.get(feed.stem, Math.floor(song / SLICE_FRAMES));
        if (!slice) break;
        rings.forEach((ring, c) =>
          this.take(slice, c, rings.length, song % SLICE_FRAMES, ring.subarray(at, at + n)),
        );
      }
      if (before !== null)
        this.join(
          feed,
          before,
          -join,
          rings.map((ring) => ring.subarray(at, at + n)),
        );
      next += n;
      Atomics.store(head, ringNext(parity), next);
    }
    return next;
  }

  /** The slices of what stands before the loop's start, once its end is within reach. */
  private beforeLoop(feed: Feed, next: number, reach: number, want: (number: number, ahead: number) => void) {
    const jump = untilJump(this.cue, next);
    if (jump > reach) return;
    const { loopStart } = this.cue;
    const first = Math.max(0, loopStart - joinOf(this.cue));
    for (let number = Math.floor(first / SLICE_FRAMES); number * SLICE_FRAMES < loopStart; number++)
      if (number * SLICE_FRAMES < feed.stemFrames) want(number, jump);
  }

  /** Takes a channel of what a strip of so many channels plays out of a slice; behind its end is silence. */
  private take(slice: KeptSlice, channel: number, channels: number, from: number, room: Float32Array) {
    const there = channelInto(slice, slice.channels > 1 ? channel : 0, from, room);
    room.fill(0, there);
    // A stereo stem on a mono strip is folded.
    if (slice.channels <= channels) return;
    channelInto(slice, 1, from, this.other.subarray(0, room.length));
    for (let i = 0; i < there; i++) room[i] = (room[i]! + this.other[i]!) / 2;
  }

  /** A stem's slice about a frame; null where there is none, or no more; undefined where it has not come yet. */
  private about(feed: Feed, song: number): KeptSlice | null | undefined {
    if (feed.stem === null || song < 0 || song >= feed.stemFrames || this.shelf.isGone(feed.stem))
      return null;
    return this.shelf.get(feed.stem, Math.floor(song / SLICE_FRAMES)) ?? undefined;
  }

  /**
   * Lets frames before a loop's end go over into what stands before its start, or into silence.
   * @param song where in the song the first of that stands; @param done frames of the way that are behind
   */
  private join(feed: Feed, song: number, done: number, rooms: readonly Float32Array[]) {
    const way = joinOf(this.cue);
    const slice = this.about(feed, song);
    rooms.forEach((room, c) => {
      const before = this.before[c]!.subarray(0, room.length);
      if (slice) this.take(slice, c, rooms.length, song % SLICE_FRAMES, before);
      else before.fill(0);
      for (let i = 0; i < room.length; i++)
        room[i] = room[i]! + bow((done + i + 1) / way) * (before[i]! - room[i]!);
    });
  }

  /**
   * Each slice of what a source plays from a frame on, also behind a jump of the loop, until one is not as it is asked.
   * @param does told the slice's number and how far ahead it begins; whether it goes on
   * @returns frames that were gone through
   */
  private each(
    feed: Feed,
    next: number,
    reach: number,
    does: (number: number, ahead: number) => boolean,
  ): number {
    let ahead = 0;
    while (ahead < reach) {
      const song = songAt(this.cue, next + ahead);
      if (song < feed.stemFrames && !does(Math.floor(song / SLICE_FRAMES), ahead)) break;
      ahead += Math.max(1, Math.min(untilJump(this.cue, next + ahead), SLICE_FRAMES - (song % SLICE_FRAMES)));
    }
    return ahead;
  }
  /** Frames that are there, one after the other, beyond a source's ring. */
  private heldBehind(feed: Feed, next: number): number {
    const { stem } = feed;
    if (stem === null || this.shelf.isGone(stem)) return Infinity;
    return this.each(feed, next, AHEAD, (number) => this.shelf.get(stem, number) !== null);
  }

  /** Beginnings that are fetched before it is played from there. */
  private warmUp(needed: Set<string>) {
    const { stems, start } = this.warm;
    const first = Math.floor(start / SLICE_FRAMES);
    const last = Math.floor((start + READY_FRAMES - 1) / SLICE_FRAMES);
    for (const { stem, frames } of stems)
      for (let number = first; number <= last && number * SLICE_FRAMES < frames; number++) {
        needed.add(`${stem} ${number}`);
        // What is played comes first.
        this.shelf.want(stem, number, RING_FRAMES + AHEAD + (number - first) * SLICE_FRAMES);
      }
  }

  private fellBehind(strip: string, stem: string) {
    const why = this.shelf.why(stem);
    this.late.set(strip, { strip, why, waits: Math.round(this.shelf.waits) });
  }
  private tellLate() {
    if (this.late.size === 0 || this.now() - this.toldAt < TELL) return;
    this.toldAt = this.now();
    this.tell({ type: 'late', sources: [...this.late.values()] });
    this.late.clear();
  }

  /** Does what the page asks for. */
  hear(data: FeederMessage) {
    if (data.type === 'start') this.control = new Int32Array(data.control);
    else if (data.type === 'warm') {
      this.warm = data;
      this.fill();
    } else if (data.type === 'sources') {
      const known = new Map(this.feeds.map((f) => [f.strip, f]));
      this.feeds = data.sources.map((s) => {
        const old = known.get(s.strip);
        return old && old.ring === s.ring && old.stem === s.stem
          ? old
          : { ...s, views: ringViews(s.ring, s.channels) };
      });
      this.fill();
    } else {
      this.generation = data.generation;
      this.cue = data.cue;
      this.shelf.elsewhere();
      for (const feed of this.feeds) {
        Atomics.store(feed.views.head, ringFrom(this.generation & 1), 0);
        Atomics.store(feed.views.head, ringNext(this.generation & 1), 0);
      }
      this.fill();
    }
  }
}
