import { BLOCK } from '../core/plan/layout';
import type { PlanSteering } from '../core/plan/plan';
import { knotsUntil, type Curve } from '../core/plan/curve';
import type { Samples } from '../core/base/units';
import type { Stretch, Timeline } from './timeline';

/**
 * What is left of a jump at a share of its time: 1 at 0, 0 at 1. The step is the integral of the square of Hann's window, of which
 * hardly anything lies above what sixteen of its lengths would hold.
 */
const leftOf = (share: number) =>
  1 - share + (8 * Math.sin(2 * Math.PI * share) - Math.sin(4 * Math.PI * share)) / (12 * Math.PI);

/** Tables of a running plan, as the engine's memory has them. */
export interface Tables {
  readonly targets: Float32Array;
  readonly current: Float32Array;
  readonly previous: Float32Array;
  /** Which parameters are set at once: see `ParamRun`. */
  readonly steps: Uint8Array;
  /** Speeds by hand, a block, at the block's end, and how fast they change. */
  readonly ends: Float32Array;
  readonly turns: Float32Array;
  readonly paths: Uint32Array;
  /** Room for values a frame, and where in memory it stands. */
  readonly rows: Float32Array;
  readonly rowsAt: number;
}

/** A curve that moves a run of parameters, and how far it has come. */
class Driven {
  cursor = 0;
  /** The stretch of the song that it followed last; null before the first block. */
  stretch: Stretch | null = null;
  /** What is left of where it stood when it leapt, and since when. */
  readonly left: Float32Array;
  since = -Infinity;

  constructor(readonly curve: Curve) {
    this.left = new Float32Array(curve.count);
  }
}

/**
 * Moves parameters along curves, to the frame: a value that stands or goes straight through a block by its end, any other by a
 * value a frame. A curve's jump begins at its knot and is over within its `jump`; so does a leap to another place of the song,
 * or to another curve.
 */
export class Drive {
  private driven: Driven[] = [];
  /** Where each of them stands there, by the first parameter that it moves. */
  private places = new Map<number, number>();
  private used = 0;
  /** Frame of the clock up to which nothing moves. */
  private stillUntil = -Infinity;
  private tables!: Tables;

  constructor(private readonly timeline: Timeline) {}

  /** Looks at tables: once they are there, and where memory has moved. */
  look(tables: Tables): void {
    this.tables = tables;
  }
  get any(): boolean {
    return this.driven.length > 0;
  }
  get curves(): readonly Curve[] {
    return this.driven.map((d) => d.curve);
  }

  /** The parameters that they move. */
  *moved(): Iterable<number> {
    for (const { at, count } of this.curves) for (let i = 0; i < count; i++) yield at + i;
  }

  /** Has parameters moved by these curves from now on; those that it had already go on. */
  follow(curves: readonly Curve[]): void {
    const known = new Map(this.driven.map((d) => [d.curve, d]));
    this.driven = curves.map((c) => known.get(c) ?? new Driven(c));
    this.places = new Map(curves.map((c, i) => [c.at, i]));
    this.claimAll();
  }
  /** Takes all that hands were told to move. */
  claimAll(): void {
    for (const d of this.driven) this.hold(d);
    this.stillUntil = -Infinity;
  }
  /**
   * Has some parameters moved by other curves, or by none any more; all others go on.
   * @returns whether other parameters are moved by curves than before
   */
  change(changes: PlanSteering['curves']): boolean {
    let others = false;
    for (const { at, curve } of changes) {
      const place = this.places.get(at);
      const before = place === undefined ? undefined : this.driven[place]!;
      if (before?.curve.count !== curve?.count) others = true;
      if (curve) {
        const driven = new Driven({ at, ...curve });
        this.places.set(at, place ?? this.driven.length);
        this.driven[place ?? this.driven.length] = driven;
        this.hold(driven);
      } else if (before) {
        const last = this.driven.pop()!;
        this.places.delete(at);
        if (last === before) continue;
        this.driven[place!] = last;
        this.places.set(last.curve.at, place!);
      }
    }
    if (changes.length) this.stillUntil = -Infinity;
    return others;
  }
  /** Takes a run of parameters that hands were told to move: where a curve moves it, it stays where it is until that is read next. */
  claim(at: number): void {
    const place = this.places.get(at);
    if (place === undefined) return;
    this.hold(this.driven[place]!);
    this.stillUntil = -Infinity;
  }
  private hold({ curve }: Driven) {
    const { targets, current, ends, turns } = this.tables;
    for (let i = curve.at; i < curve.at + curve.count; i++) {
      targets[i] = current[i]!;
      ends[i] = 0;
      turns[i] = 0;
    }
  }

  /** Puts all of them at once where they are before a frame of the clock. */
  settle(clock: Samples): void {
    this.stillUntil = -Infinity;
    const { targets, current, previous, ends, turns } = this.tables;
    for (const d of this.driven) {
      const { at, count, behind } = d.curve;
      const t = clock - behind;
      const stretch = this.timeline.stretch(this.timeline.indexAt(t));
      const frame = frameIn(stretch, t);
      d.cursor = knotsUntil(d.curve.frames, frame, d.cursor);
      for (let i = 0; i < count; i++) {
        targets[at + i] = current[at + i] = previous[at + i] = valueAt(d.curve, i, frame, d.cursor);
        ends[at + i] = 0;
        turns[at + i] = 0;
      }
      d.stretch = stretch;
      d.since = -Infinity;
    }
  }

  /** Frames from a frame of the clock on for which nothing moves, whole blocks. */
  stillFor(clock: Samples): Samples {
    return Math.max(0, Math.floor((this.stillUntil - clock) / BLOCK)) * BLOCK;
  }
  /** The timeline leapt. */
  leapt(): void {
    this.stillUntil = -Infinity;
  }

  /**
   * Says where the parameters go in the block that begins at a frame of the clock.
   * @returns whether any of them moves
   */
  move(clock: Samples): boolean {
    if (clock + BLOCK <= this.stillUntil) return false;
    this.used = 0;
    let still = Infinity;
    let moves = false;
    for (let k = 0; k < this.driven.length; k++) {
      const d = this.driven[k]!;
      const t = clock - d.curve.behind;
      const index = this.timeline.indexAt(t);
      const end = this.timeline.endOf(index);
      const stretch = this.timeline.stretch(index);
      if (d.stretch !== stretch) this.leap(d, stretch, t);
      if (end < t + BLOCK) {
        this.pieces(d, t, index);
        moves = true;
        still = -Infinity;
      } else {
        const rests = this.one(d, t, stretch);
        if (rests < 0) moves = true;
        still = Math.min(still, rests, end - t - BLOCK);
      }
    }
    this.stillUntil = clock + BLOCK + Math.max(0, still);
    return moves;
  }

  /** What stands elsewhere than the curve at that frame fades from there. */
  private leap(d: Driven, stretch: Stretch, t: Samples) {
    const { at, count } = d.curve;
    const frame = frameIn(stretch, t);
    const cursor = knotsUntil(d.curve.frames, frame, d.cursor);
    d.stretch = stretch;
    d.cursor = cursor;
    d.since = -Infinity;
    for (let i = 0; i < count; i++) {
      const off = this.tables.steps[at + i]
        ? 0
        : this.tables.current[at + i]! - valueAt(d.curve, i, frame, cursor);
      d.left[i] = off;
      if (off !== 0) d.since = t;
    }
  }

  /** Jumps that are not over at a frame, or lie before another: the first knot that can have a part in one. */
  private firstKnot(d: Driven, stretch: Stretch, frame: Samples, until: number): number {
    const { frames } = d.curve;
    const since = Math.max(frame - d.curve.jump, stretch.frame);
    let k = until;
    while (k > 0 && frames[k - 1]! > since) k--;
    return k;
  }

  /**
   * A block within one stretch of the song.
   * @returns for how many frames after it nothing moves; below 0 where something does in this block
   */
  private one(d: Driven, t: Samples, stretch: Stretch): Samples {
    const { curve } = d;
    const { frames, values, count, at } = curve;
    const { targets, current } = this.tables;
    const n = frames.length;
    const from = frameIn(stretch, t);
    const to = frameIn(stretch, t + BLOCK - 1);
    const begun = knotsUntil(frames, from - 1, d.cursor);
    const end = knotsUntil(frames, to, begun);
    d.cursor = end;
    const first = this.firstKnot(d, stretch, from, end);
    let jumps = false;
    for (let k = first; k < end; k++) if (k > 0 && frames[k] === frames[k - 1]) jumps = true;
    const leaps = d.since + curve.jump > t;
    // A late signal that comes to where the song began.
    const sets = stretch.rolls && t < stretch.clock && t + BLOCK > stretch.clock;
    if (!leaps && !jumps && !sets && begun === end) {
      let moved = false;
      for (let i = 0; i < count; i++) {
        const v = Math.fround(valueAt(curve, i, to, end));
        if (v !== current[at + i]) {
          targets[at + i] = current[at + i] = v;
          moved = true;
        }
      }
      if (moved) return -1;
      if (!stretch.rolls || end === n) return Infinity;
      if (end > 0)
        for (let i = 0; i < count; i++)
          if (values[(end - 1) * count + i] !== values[end * count + i]) return 0;
      return Math.max(0, Math.floor(frames[end]! - to - 1));
    }
    for (let i = 0; i < count; i++) {
      let same = !leaps || d.left[i] === 0;
      const [a, b] = [Math.max(0, Math.min(first, begun) - 1), Math.min(end, n - 1)];
      for (let k = a + 1; same && k <= b; k++) same = values[k * count + i] === values[a * count + i];
      if (same) {
        targets[at + i] = current[at + i] = values[b * count + i]!;
        continue;
      }
      const row = this.room(i, d, jumps || leaps);
      if (row < 0) {
        targets[at + i] = current[at + i] = valueAt(curve, i, to, end);
        continue;
      }
      this.fill(d, i, row, 0, BLOCK, stretch, t);
      targets[at + i] = current[at + i] = this.tables.rows[row + BLOCK - 1]!;
    }
    return -1;
  }

  /** A block in which the song leaps. */
  private pieces(d: Driven, t: Samples, index: number) {
    const { at, count } = d.curve;
    const { targets, current, rows } = this.tables;
    const first = this.used;
    for (let i = 0; i < count; i++) if (this.room(i, d, true) < 0) return;
    let from = 0;
    for (let s = index; from < BLOCK; s++) {
      const stretch = this.timeline.stretch(s);
      const until = Math.min(BLOCK, this.timeline.endOf(s) - t);
      if (s > index) this.leap(d, stretch, t + from);
      for (let i = 0; i < count; i++) {
        const row = (first + i) * BLOCK;
        this.fill(d, i, row, from, until, stretch, t);
        targets[at + i] = current[at + i] = rows[row + until - 1]!;
      }
      from = until;
    }
  }

  /** Takes room for a value's frames, and has the engine read them there. @returns its place in `rows`; -1 where none is left */
  private room(i: number, d: Driven, fine: boolean): number {
    const row = this.used * BLOCK;
    const { rows, rowsAt, paths } = this.tables;
    if (row + BLOCK > rows.length) return -1;
    this.used++;
    paths[d.curve.at + i] = (rowsAt + row * 4) | (fine ? 1 : 0);
    return row;
  }

  /** Writes one value for frames of a block that lie within one stretch. */
  private fill(d: Driven, i: number, row: number, from: number, to: number, stretch: Stretch, t: Samples) {
    const { frames, values, count, jump } = d.curve;
    const { rows } = this.tables;
    const n = frames.length;
    const start = frameIn(stretch, t + from);
    // Frames that the song stands where it begins.
    const stands = stretch.rolls ? Math.max(0, stretch.clock - t - from) : Infinity;
    const frameOf = (s: number) => start + Math.max(0, s - from - stands);
    let next = knotsUntil(frames, start, d.cursor);
    for (let s = from; s < to; s++) {
      const frame = frameOf(s);
      while (next < n && frames[next]! <= frame) next++;
      rows[row + s] = valueAt(d.curve, i, frame, next);
    }
    if (this.tables.steps[d.curve.at + i]) return;
    // What is left of the jumps that lie behind.
    const last = frameOf(to - 1);
    for (let k = this.firstKnot(d, stretch, start, knotsUntil(frames, last, next)); k < n; k++) {
      const at = frames[k]!;
      if (at > last) break;
      if (k === 0 || frames[k - 1] !== at) continue;
      const by = values[k * count + i]! - values[(k - 1) * count + i]!;
      if (by === 0) continue;
      for (let s = from; s < to; s++) {
        const share = (frameOf(s) - at) / jump;
        if (share >= 0 && share < 1) rows[row + s]! -= by * leftOf(share);
      }
    }
    const off = d.left[i]!;
    if (off === 0 || d.since + jump <= t + from) return;
    for (let s = from; s < to && t + s < d.since + jump; s++)
      rows[row + s]! += off * leftOf((t + s - d.since) / jump);
  }
}

/** Where in the song a stretch is at a frame of the clock; before it begins it stands where it begins. */
const frameIn = (stretch: Stretch, clock: Samples): Samples =>
  stretch.rolls ? stretch.frame + Math.max(0, clock - stretch.clock) : stretch.frame;

/** A curve's value, one of its `count`, at a frame of the song. @param next how many knots stand there or before */
function valueAt({ frames, values, count }: Curve, i: number, frame: Samples, next: number): number {
  const n = frames.length;
  if (next === 0 || next === n) return values[(next === 0 ? 0 : n - 1) * count + i]!;
  const from = frames[next - 1]!;
  const a = values[(next - 1) * count + i]!;
  return a + (values[next * count + i]! - a) * ((frame - from) / (frames[next]! - from));
}
