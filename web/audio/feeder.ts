import pLimit from 'p-limit';
import { planar } from '@engine/print';
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
import { PIECE_FRAMES } from './stemFetch';

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

/** Frames that have to be in every ring before a generation may be played. */
const READY_FRAMES = 6144;
/** Fetches under way at once; the browser keeps room for edits. */
const AT_ONCE = 4;
/** How far beyond the rings pieces are looked for. */
const AHEAD = [PIECE_FRAMES / 3, (2 * PIECE_FRAMES) / 3, PIECE_FRAMES];

interface Feed extends FeedSource {
  readonly views: RingViews;
}

/** Interleaved frames of a piece of a stem. */
export type FetchPiece = (stem: string, piece: number) => Promise<Float32Array>;

/**
 * Fills the rings of an engine's sources with what is to be played next, and says when enough of a generation is there to play
 * it. It writes into memory that the audio thread reads: one writer for each word (shared.ts).
 */
export class Feeder {
  private control: Int32Array | null = null;
  private feeds: readonly Feed[] = [];
  private generation = 0;
  private cue: Cue = { start: 0, loopStart: 0, loopEnd: 0 };
  /** Pieces of stems by `stem piece`; only those near the playhead are held. */
  private readonly pieces = new Map<string, Float32Array[] | 'coming'>();
  private readonly fetches = pLimit(AT_ONCE);

  constructor(private readonly fetchPiece: FetchPiece) {}

  private want(feed: Feed, piece: number) {
    const key = `${feed.stem} ${piece}`;
    if (this.pieces.has(key)) return;
    this.pieces.set(key, 'coming');
    this.fetches(() => this.fetchPiece(feed.stem!, piece)).then(
      (audio) => {
        if (this.pieces.get(key) === 'coming') this.pieces.set(key, planar(audio, feed.stemChannels));
        this.fill();
      },
      () => {
        // The server is away: it is asked again at the next turn, and not before, as it may refuse at once.
        this.pieces.delete(key);
      },
    );
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
      // Held as long as the ring is filled from it, also while the ring is full.
      if (feed.stem !== null) needed.add(`${feed.stem} ${Math.floor(songAt(cue, next) / PIECE_FRAMES)}`);
      while (next < until) {
        const song = songAt(cue, next);
        const n = Math.min(
          until - next,
          RING_FRAMES - (next % RING_FRAMES),
          untilJump(cue, next),
          PIECE_FRAMES - (song % PIECE_FRAMES),
        );
        const at = next % RING_FRAMES;
        const rings = feed.views.audio[parity]!;
        if (feed.stem === null || song >= feed.stemFrames) {
          for (const ring of rings) ring.fill(0, at, at + n);
        } else {
          const piece = Math.floor(song / PIECE_FRAMES);
          const key = `${feed.stem} ${piece}`;
          const audio = this.pieces.get(key);
          if (!audio || audio === 'coming') {
            this.want(feed, piece);
            break;
          }
          const from = song % PIECE_FRAMES;
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
      // Pieces are fetched before they are needed, also those behind a jump of the loop.
      for (const frames of AHEAD) {
        const ahead = songAt(cue, next + Math.floor(frames));
        if (feed.stem === null || ahead >= feed.stemFrames) continue;
        const piece = Math.floor(ahead / PIECE_FRAMES);
        needed.add(`${feed.stem} ${piece}`);
        if (started) this.want(feed, piece);
      }
    }
    if (Atomics.load(control, CONTROL.ready) !== generation && least >= READY_FRAMES) {
      const base = CONTROL.cues + parity * 3;
      Atomics.store(control, base, cue.start);
      Atomics.store(control, base + 1, cue.loopStart);
      Atomics.store(control, base + 2, cue.loopEnd);
      Atomics.store(control, CONTROL.ready, generation);
    }
    for (const key of this.pieces.keys())
      if (!needed.has(key) && this.pieces.get(key) !== 'coming') this.pieces.delete(key);
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
      this.fetches.clearQueue();
      for (const [key, piece] of this.pieces) if (piece === 'coming') this.pieces.delete(key);
      for (const feed of this.feeds) {
        Atomics.store(feed.views.head, ringFrom(this.generation & 1), 0);
        Atomics.store(feed.views.head, ringNext(this.generation & 1), 0);
      }
      this.fill();
    }
  }
}
