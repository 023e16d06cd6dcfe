import { jumpFrames } from '../base/jump';
import type { When } from '../automation/at';
import type { Lane, LanePoint } from '../session/types';
import type { Hertz, Samples, Seconds } from '../base/units';

/** How a run of parameters moves with time: straight between its knots, as it stands before the first and after the last. */
export interface Curve {
  /** First parameter that it moves, and how many. */
  readonly at: number;
  readonly count: number;
  /** Frames by which the signal that it works on lies behind the stems. */
  readonly behind: Samples;
  /** Frames in which a jump of it is over. */
  readonly jump: Samples;
  /** Frames of the song at which the knots stand, rising; two at one frame are a jump. */
  readonly frames: Float64Array;
  /** `count` values a knot. */
  readonly values: Float32Array;
}

/** A straight line may stray from what is wanted by about this share of it: 0.01 dB of a gain. */
const TOLERANCE = 0.001;
/** And by this much of nothing: -180 dB. */
const FLOOR = 1e-9;
/** Pieces, at most, of what is not an even bow. */
const FEW = 4;
/** Frames that a straight line takes at least, and how near to one a time counts as on it. */
const LEAST = 1;
const NEAR = 1e-6;

/** How far a straight line strays from what is wanted at a share of its way, in tolerances; 1 is just right. */
function astray(
  from: readonly number[],
  to: readonly number[],
  share: number,
  wanted: readonly number[],
): number {
  let worst = 0;
  for (let i = 0; i < wanted.length; i++) {
    const off = Math.abs(from[i]! + (to[i]! - from[i]!) * share - wanted[i]!);
    if (off > 0) worst = Math.max(worst, off / (FLOOR + TOLERANCE * Math.abs(wanted[i]!)));
  }
  return worst;
}

/** Whether values lie within a factor of two of each other, or are nothing both, so that what is near to one is as near to the other. */
const alike = (a: readonly number[], b: readonly number[]) =>
  a.every((value, i) => {
    const [x, y] = [Math.abs(value), Math.abs(b[i]!)];
    return (2 * x >= y && 2 * y >= x) || Math.max(x, y) <= FLOOR;
  });

/** Seconds at which any of the lanes has a point, rising. */
function knotsOf(lanes: readonly Lane[]): Float64Array {
  const times = new Float64Array(lanes.reduce((n, lane) => n + lane.length, 0));
  let n = 0;
  for (const lane of lanes) for (let i = 0; i < lane.length; i++) times[n++] = lane[i]![0];
  if (lanes.length > 1) times.sort();
  let kept = 0;
  for (let i = 0; i < n; i++) {
    const time = times[i]!;
    if (kept === 0 || times[kept - 1] !== time) times[kept++] = time;
  }
  return times.subarray(0, kept);
}

/** A stretch of time in which a lane has become another, without its ends but for jumps that stand on them. */
interface Changed {
  readonly from: Seconds;
  readonly to: Seconds;
  /** Whether what leads away from its beginning is another. */
  readonly jumps: boolean;
}

/** Where two states of one lane differ; null where they do not. */
function changedIn(before: Lane, after: Lane): Changed | null {
  if (before === after) return null;
  const same = (a: LanePoint, b: LanePoint) => a === b || (a[0] === b[0] && a[1] === b[1]);
  const shorter = Math.min(before.length, after.length);
  let head = 0;
  while (head < shorter && same(before[head]!, after[head]!)) head++;
  if (head === before.length && head === after.length) return null;
  let tail = 0;
  while (tail < shorter - head && same(before[before.length - 1 - tail]!, after[after.length - 1 - tail]!))
    tail++;
  // Between two points a lane depends on these two alone.
  const from = head ? after[head - 1]![0] : -Infinity;
  const to = tail ? after[after.length - tail]![0] : Infinity;
  const jumps = [before[head], after[head]].some((p) => p?.[0] === from);
  return { from, to, jumps };
}

/** Whether it reaches into what ends at a time, so far as that is to be told by where it begins. */
const touches = (change: Changed, end: Seconds) => end > change.from || (change.jumps && end === change.from);

/** Whether the points of two states of some lanes stand at the same times. */
const sameTimes = (before: readonly Lane[], after: readonly Lane[]) =>
  before.every(
    (lane, i) =>
      lane === after[i] ||
      (lane.length === after[i]!.length && lane.every((point, k) => point[0] === after[i]![k]![0])),
  );

/** What lies between two knots, and the second of them: frames and values. */
interface Piece {
  readonly frames: readonly number[];
  readonly values: readonly number[];
}

/**
 * What parameters do over time, drawn as straight lines, each as long as it keeps close to what is wanted. The stretch between two points of the lanes can be drawn without the others, so that a host may begin with what it
 * plays next.
 */
export class CurveDrawing {
  /** Seconds at which the lanes have points, rising. */
  private readonly knots: Float64Array;
  private readonly pieces: (Piece | undefined)[];
  /** Pieces that `curve` was made of: from the first up to, not including, the last. */
  private first = 0;
  private last = 0;
  private made: Omit<Curve, 'at'> | null = null;

  /**
   * @param lanes whose points are where it bends
   * @param behind frames by which the signal that it works on lies behind the stems
   * @param before the drawing of other states of the same lanes, with all else the same: what it has drawn is drawn no more
   *   where no lane has changed
   * @param jump frames in which a jump is over
   */
  constructor(
    private readonly lanes: readonly Lane[],
    private readonly make: (when: When) => readonly number[],
    private readonly sampleRate: Hertz,
    private readonly behind: Samples,
    before: CurveDrawing | null = null,
    private readonly jump: Samples = jumpFrames(sampleRate),
  ) {
    if (before && sameTimes(before.lanes, lanes)) {
      this.knots = before.knots;
      this.pieces = before.pieces.slice();
      this.forget(before);
    } else {
      this.knots = knotsOf(lanes);
      this.pieces = new Array<Piece | undefined>(this.knots.length);
      if (before) this.inherit(before);
    }
  }

  /** Of what another drawing of the same knots has, forgets the stretches in which a lane has changed. */
  private forget(before: CurveDrawing) {
    const { knots, pieces } = this;
    for (const change of this.changesFrom(before))
      for (let k = 0; k < knots.length && (k ? knots[k - 1]! : -Infinity) < change.to; k++)
        if (touches(change, knots[k]!)) pieces[k] = undefined;
  }
  private changesFrom(before: CurveDrawing): readonly Changed[] {
    return this.lanes.flatMap((lane, i) => changedIn(before.lanes[i]!, lane) ?? []);
  }

  /** Takes over what another drawing has of stretches in which no lane has changed. */
  private inherit(before: CurveDrawing) {
    const changed = this.changesFrom(before);
    const { knots } = this;
    for (let k = 0, was = 0; k < knots.length; k++) {
      const end = knots[k]!;
      while (was < before.knots.length && before.knots[was]! < end) was++;
      const begin = k ? knots[k - 1]! : -Infinity;
      if (before.knots[was] !== end || (was ? before.knots[was - 1] : -Infinity) !== begin) continue;
      if (changed.some((c) => touches(c, end) && begin < c.to)) continue;
      this.pieces[k] = before.pieces[was];
    }
  }

  /** Whether every stretch of it is drawn. */
  get whole(): boolean {
    return this.first === 0 && this.last === this.knots.length;
  }
  /** What is drawn; null where nothing is, or where the whole moves nothing. */
  get curve(): Omit<Curve, 'at'> | null {
    return this.made;
  }

  /**
   * Draws what it does in a span of time.
   * @param late asked after each piece that was drawn: whether it is to stop; it goes on from there when it is asked again
   * @returns whether the span is drawn
   */
  draw(from: Seconds, to: Seconds, late: () => boolean = () => false): boolean {
    const { knots } = this;
    const count = (time: Seconds) => {
      let low = 0;
      let high = knots.length;
      while (low < high) {
        const mid = (low + high) >> 1;
        if (knots[mid]! <= time) low = mid + 1;
        else high = mid;
      }
      return low;
    };
    // The piece that ends at the first knot past the span belongs to it, and the one that ends where it begins.
    const begin = Math.max(0, count(from) - 1);
    const end = Math.min(knots.length, count(to) + 1);
    let next = begin;
    while (next < end) {
      const there = this.pieces[next] !== undefined;
      if (!there) this.pieces[next] = this.piece(next);
      next++;
      if (!there && late()) break;
    }
    this.join(begin, next);
    return next === end;
  }
  drawWhole(): Omit<Curve, 'at'> | null {
    this.draw(-Infinity, Infinity);
    return this.made;
  }

  /** Makes the curve of all that is drawn around these pieces without a gap. */
  private join(begin: number, end: number) {
    if (begin >= this.first && end <= this.last) return;
    let first = begin;
    let last = end;
    while (first > 0 && this.pieces[first - 1]) first--;
    while (last < this.pieces.length && this.pieces[last]) last++;
    this.first = first;
    this.last = last;
    const drawn = this.pieces.slice(first, last) as Piece[];
    const frames = new Float64Array(drawn.reduce((n, p) => n + p.frames.length, 0));
    const values = new Float32Array(drawn.reduce((n, p) => n + p.values.length, 0));
    let frame = 0;
    let value = 0;
    for (const p of drawn) {
      frames.set(p.frames, frame);
      values.set(p.values, value);
      frame += p.frames.length;
      value += p.values.length;
    }
    const size = values.length / frames.length;
    const still = this.whole && values.every((v, i) => v === values[i % size]);
    this.made =
      frames.length === 0 || still
        ? null
        : { count: size, behind: this.behind, jump: this.jump, frames, values };
  }

  private piece(k: number): Piece {
    const frames: number[] = [];
    const values: number[] = [];
    const put = (time: Seconds, list: readonly number[]) => {
      frames.push(time * this.sampleRate);
      for (const v of list) values.push(v);
    };
    const time = this.knots[k]!;
    const before = this.make({ time, side: 'before' });
    if (k > 0) {
      const from = this.knots[k - 1]!;
      this.between(from, this.make({ time: from, side: 'after' }), time, before, put);
    }
    put(time, before);
    const after = this.make({ time, side: 'after' });
    if (after.some((v, i) => v !== before[i])) put(time, after);
    return { frames, values };
  }

  private between(
    t0: Seconds,
    v0: readonly number[],
    t1: Seconds,
    v1: readonly number[],
    put: (time: Seconds, list: readonly number[]) => void,
  ): void {
    const span = t1 - t0;
    const least = LEAST / this.sampleRate;
    // It is read at frames: where none lies between, there is nothing to draw.
    if (Math.floor(t0 * this.sampleRate + NEAR) + 1 > t1 * this.sampleRate - NEAR) return;
    const get = (time: Seconds) => this.make({ time, side: 'after' });
    const middle = get((t0 + t1) / 2);
    const half = astray(v0, v1, 0.5, middle);
    const quarter = astray(v0, v1, 0.25, get(t0 + span / 4));
    const last = astray(v0, v1, 0.75, get(t0 + (span * 3) / 4));
    const worst = Math.max(half, quarter, last);
    if (worst <= 1) return;
    // A chord of an even bow strays by the square of its length, so many pieces bring it near; at its quarters it strays by
    // three quarters of what it does in the middle. Where it does not, or a piece strays in its middle, there is a bend: pieces are looked
    // at again.
    const even =
      Math.abs(quarter - 0.75 * half) < 0.15 * half &&
      Math.abs(last - 0.75 * half) < 0.15 * half &&
      alike(v0, v1);
    // Where it is not even, how far it strays tells nothing of its pieces: a number that goes through nothing strays without bound there.
    const most = even ? Infinity : FEW;
    const pieces = Math.min(Math.ceil(span / least), most, Math.max(2, Math.ceil(Math.sqrt(worst))));
    let time = t0;
    let value = v0;
    for (let k = 1; k <= pieces; k++) {
      // On a frame: that is where it is read.
      const onFrame = Math.round((t0 + (span * k) / pieces) * this.sampleRate) / this.sampleRate;
      if (k < pieces && (onFrame <= time || onFrame >= t1)) continue;
      const end = k === pieces ? t1 : onFrame;
      const there = k === pieces ? v1 : get(end);
      const bends = !even || astray(value, there, 0.5, get((time + end) / 2)) > 1;
      if (bends && (time !== t0 || end !== t1)) this.between(time, value, end, there, put);
      if (k < pieces) put(end, there);
      time = end;
      value = there;
    }
  }
}

/**
 * How many knots stand at a frame of the song or before it.
 * @param cursor what was found last; any number will do
 */
export function knotsUntil(frames: Float64Array, frame: Samples, cursor: number): number {
  const n = frames.length;
  let next = cursor;
  if (next > n || (next > 0 && frames[next - 1]! > frame)) next = 0;
  // From where it was it is a step or two; from the start, after a jump in time, it is found by halves.
  if (next === 0 || (next < n && next + 8 < n && frames[next + 8]! <= frame)) {
    let high = n;
    while (next < high) {
      const mid = (next + high) >> 1;
      if (frames[mid]! <= frame) next = mid + 1;
      else high = mid;
    }
  } else while (next < n && frames[next]! <= frame) next++;
  return next;
}

/**
 * Reads a curve at a frame into a table of parameters.
 * @param cursor where the last reading found its place; any number will do
 * @returns where this one did
 */
export function readCurve(curve: Curve, frame: Samples, into: Float32Array, cursor: number): number {
  const { frames, values, count, at } = curve;
  const n = frames.length;
  const next = knotsUntil(frames, frame, cursor);
  if (next === 0 || next === n) {
    const from = (next === 0 ? 0 : n - 1) * count;
    for (let i = 0; i < count; i++) into[at + i] = values[from + i]!;
    return next;
  }
  const f0 = frames[next - 1]!;
  const share = (frame - f0) / (frames[next]! - f0);
  const a = (next - 1) * count;
  const b = next * count;
  for (let i = 0; i < count; i++) into[at + i] = values[a + i]! + (values[b + i]! - values[a + i]!) * share;
  return next;
}
