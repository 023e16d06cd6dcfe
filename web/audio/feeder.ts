import {
  CONTROL,
  ringFrom,
  ringNext,
  ringViews,
  RING_FRAMES,
  songAt,
  untilJump,
  type Cue,
  type RingViews,
} from './shared';
import type { FetchSlices, Slice } from './stemFetch';

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
  | { readonly type: 'cue'; readonly generation: number; readonly cue: Cue };

/** Frames that have to be in every ring before a generation may be played: a third of a second, in which the next slices come. */
const READY_FRAMES = 16384;
/** The most of that: what a ring holds. */
const MOST_READY = RING_FRAMES - 1024;
/** Frames a second of material by which a question's time is counted: the usual rates need no more. */
const USUAL_RATE = 48_000;
/** As much longer than the last question the next may take. */
const SPARE = 1.6;
/** Frames of a slice: what is fetched of a stem at once. Slices begin at multiples of it. */
export const SLICE_FRAMES = 16384;
/** How far beyond the rings slices are fetched, in frames. */
const AHEAD = 3 * SLICE_FRAMES;
/** Questions under way at once, and slices in one: the browser keeps room for edits. */
const AT_ONCE = 2;
const IN_ONE = 256;

interface Feed extends FeedSource {
  readonly views: RingViews;
}

/** A slice that is wanted, and how many frames ahead of what is there it begins. */
interface Wanted {
  readonly key: string;
  readonly slice: Slice;
  readonly ahead: number;
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
  /** Slices of stems by `stem number`; only those near the playhead are held. */
  private readonly slices = new Map<string, Float32Array[] | 'coming'>();
  private readonly wanted = new Map<string, Wanted>();
  private asking = 0;
  private filling = false;
  private stopper = new AbortController();
  /** Milliseconds that the slowest question of this generation took. */
  private took = 0;
  /** When those that are under way began. */
  private readonly underWay = new Set<number>();

  /** @param now milliseconds that go by */
  constructor(
    private readonly fetchSlices: FetchSlices,
    private readonly now: () => number = () => performance.now(),
  ) {}

  /**
   * Frames that have to be there before it plays: those in which the next question is answered, by how long the last ones took.
   * A machine that is busy otherwise begins a little later, and has all of the mix.
   */
  private get readyFrames(): number {
    const takes = Math.max(this.took, ...[...this.underWay].map((begun) => this.now() - begun));
    const next = (takes / 1000) * USUAL_RATE * SPARE;
    return Math.max(READY_FRAMES, Math.min(MOST_READY, Math.ceil(next)));
  }

  private want(feed: Feed, number: number, ahead: number) {
    const key = `${feed.stem} ${number}`;
    if (this.slices.has(key) || this.wanted.has(key)) return;
    const slice = { stem: feed.stem!, start: number * SLICE_FRAMES, frames: SLICE_FRAMES };
    this.wanted.set(key, { key, slice, ahead });
  }
  /** Asks for what is wanted most. */
  private ask() {
    while (this.wanted.size && this.asking < AT_ONCE) {
      const first = [...this.wanted.values()].sort((a, b) => a.ahead - b.ahead).slice(0, IN_ONE);
      for (const { key } of first) {
        this.wanted.delete(key);
        this.slices.set(key, 'coming');
      }
      this.asking++;
      const { signal } = this.stopper;
      const begun = this.now() + this.underWay.size * 1e-6;
      this.underWay.add(begun);
      const take = (number: number, audio: Float32Array[]) => {
        const { key } = first[number]!;
        if (signal.aborted || this.slices.get(key) !== 'coming') return;
        this.slices.set(key, audio);
        this.fillSoon();
      };
      void this.fetchSlices(
        first.map((w) => w.slice),
        take,
        signal,
      )
        .catch(() => {})
        .then(() => {
          if (signal.aborted) return;
          this.asking--;
          this.underWay.delete(begun);
          this.took = Math.max(this.took, this.now() - begun);
          // What did not come, as the server is away, is asked for again at the next turn, and not before: it may refuse at once.
          for (const { key } of first) if (this.slices.get(key) === 'coming') this.slices.delete(key);
          this.ask();
        });
    }
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
    const { control, generation, cue } = this;
    if (!control || generation === 0) return;
    const parity = generation & 1;
    const started = Atomics.load(control, CONTROL.playing) === generation;
    const clock = started ? Atomics.load(control, CONTROL.clock) : 0;
    const needed = new Set<string>();
    let least = Infinity;
    const ready = Atomics.load(control, CONTROL.ready) === generation;
    for (const feed of this.feeds) {
      const head = feed.views.head;
      let next = Atomics.load(head, ringNext(parity));
      if (next < clock) {
        // It came late, or fell behind: it goes on a little ahead of the playhead.
        next = clock + (started ? 2048 : 0);
        Atomics.store(head, ringFrom(parity), next);
        Atomics.store(head, ringNext(parity), next);
      }
      const until = clock + RING_FRAMES - 512;
      while (next < until) {
        const song = songAt(cue, next);
        const n = Math.min(
          until - next,
          RING_FRAMES - (next % RING_FRAMES),
          untilJump(cue, next),
          SLICE_FRAMES - (song % SLICE_FRAMES),
        );
        const at = next % RING_FRAMES;
        const rings = feed.views.audio[parity]!;
        if (feed.stem === null || song >= feed.stemFrames) {
          for (const ring of rings) ring.fill(0, at, at + n);
        } else {
          const audio = this.slices.get(`${feed.stem} ${Math.floor(song / SLICE_FRAMES)}`);
          if (!audio || audio === 'coming') break;
          const from = song % SLICE_FRAMES;
          const heard = audio.map((c) => c.subarray(from, from + n));
          const fold = heard.length > rings.length;
          rings.forEach((ring, c) => {
            const part = heard[c] ?? heard[0]!;
            ring.set(fold ? part.map((l, i) => (l + heard[1]![i]!) / 2) : part, at);
            ring.fill(0, at + part.length, at + n);
          });
        }
        next += n;
        Atomics.store(head, ringNext(parity), next);
      }
      least = Math.min(least, next - clock);
      if (feed.stem === null) continue;
      // Slices are fetched before they are needed, also those behind a jump of the loop; until all can begin, no more than that.
      const there = next - clock;
      const reach = ready || there >= READY_FRAMES ? AHEAD : READY_FRAMES - there;
      for (let ahead = 0; ahead < reach;) {
        const song = songAt(cue, next + ahead);
        if (song < feed.stemFrames) {
          const number = Math.floor(song / SLICE_FRAMES);
          needed.add(`${feed.stem} ${number}`);
          this.want(feed, number, there + ahead);
        }
        ahead += Math.max(1, Math.min(untilJump(cue, next + ahead), SLICE_FRAMES - (song % SLICE_FRAMES)));
      }
    }
    if (!ready && least >= this.readyFrames) {
      const base = CONTROL.cues + parity * 3;
      Atomics.store(control, base, cue.start);
      Atomics.store(control, base + 1, cue.loopStart);
      Atomics.store(control, base + 2, cue.loopEnd);
      Atomics.store(control, CONTROL.ready, generation);
    }
    for (const key of this.slices.keys())
      if (!needed.has(key) && this.slices.get(key) !== 'coming') this.slices.delete(key);
    for (const key of this.wanted.keys()) if (!needed.has(key)) this.wanted.delete(key);
    this.ask();
  }

  /** Does what the page asks for. */
  hear(data: FeederMessage) {
    if (data.type === 'start') this.control = new Int32Array(data.control);
    else if (data.type === 'sources') {
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
      this.stopper.abort();
      this.stopper = new AbortController();
      this.asking = 0;
      this.took = 0;
      this.underWay.clear();
      this.wanted.clear();
      for (const [key, slice] of this.slices) if (slice === 'coming') this.slices.delete(key);
      for (const feed of this.feeds) {
        Atomics.store(feed.views.head, ringFrom(this.generation & 1), 0);
        Atomics.store(feed.views.head, ringNext(this.generation & 1), 0);
      }
      this.fill();
    }
  }
}
