import type { Side } from '../automation/lane';
import type { When } from '../automation/at';
import type { Hertz, Samples, Seconds } from '../session/units';
import { BLOCK } from './layout';

/** How a run of parameters moves with time: straight between its knots, as it stands before the first and after the last. */
export interface Curve {
  /** First parameter that it moves, and how many. */
  readonly at: number;
  readonly count: number;
  /** Frames of the knots, rising; two at one frame are a jump. */
  readonly frames: Float64Array;
  /** `count` values a knot. */
  readonly values: Float32Array;
}

/** A straight line may stray from what is wanted by about this share of it: 0.01 dB of a gain. */
const TOLERANCE = 0.001;
/** And by this much of nothing: -100 dB. */
const FLOOR = 1e-5;

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

/**
 * Draws what parameters do over time as straight lines, each as long as it keeps close to what is wanted, and at
 * least a block.
 * @param times at which the lanes have points, in any order
 * @param shift frames by which the engine needs the values later (or, negative, earlier)
 * @returns null where nothing moves
 */
export function drawCurve(
  times: readonly Seconds[],
  make: (when: When) => readonly number[],
  sampleRate: Hertz,
  shift: Samples,
): Omit<Curve, 'at'> | null {
  const knots = [...new Set(times)].sort((a, b) => a - b);
  const get = (time: Seconds, side: Side) => make({ time, side });
  const frames: number[] = [];
  const values: number[] = [];
  const put = (time: Seconds, list: readonly number[]) => {
    frames.push(time * sampleRate + shift);
    values.push(...list);
  };
  const least = BLOCK / sampleRate;
  const between = (t0: Seconds, v0: readonly number[], t1: Seconds, v1: readonly number[]) => {
    const span = t1 - t0;
    if (span <= least) return;
    const middle = get((t0 + t1) / 2, 'after');
    const half = astray(v0, v1, 0.5, middle);
    const quarter = astray(v0, v1, 0.25, get(t0 + span / 4, 'after'));
    const last = astray(v0, v1, 0.75, get(t0 + (span * 3) / 4, 'after'));
    const worst = Math.max(half, quarter, last);
    if (worst <= 1) return;
    // A chord of an even bow strays by the square of its length, so many pieces bring it near; at its quarters it strays by
    // three quarters of what it does in the middle. Where it does not, there is a bend: each piece is looked at again.
    const even = Math.abs(quarter - 0.75 * half) < 0.15 * half && Math.abs(last - 0.75 * half) < 0.15 * half;
    const pieces = Math.min(Math.ceil(span / least), Math.max(2, Math.ceil(Math.sqrt(worst))));
    let time = t0;
    let value = v0;
    for (let k = 1; k <= pieces; k++) {
      const end = k === pieces ? t1 : t0 + (span * k) / pieces;
      const there = k === pieces ? v1 : k * 2 === pieces ? middle : get(end, 'after');
      if (!even) between(time, value, end, there);
      if (k < pieces) put(end, there);
      time = end;
      value = there;
    }
  };
  let last: { time: Seconds; value: readonly number[] } | null = null;
  for (const time of knots) {
    const before = get(time, 'before');
    const after = get(time, 'after');
    if (last) between(last.time, last.value, time, before);
    put(time, before);
    if (after.some((v, i) => v !== before[i])) put(time, after);
    last = { time, value: after };
  }
  if (!last) return null;
  const count = last.value.length;
  if (values.every((v, i) => v === values[i % count])) return null;
  return { count, frames: Float64Array.from(frames), values: Float32Array.from(values) };
}

/**
 * Reads a curve at a frame into a table of parameters.
 * @param cursor where the last reading found its place; any number will do
 * @returns where this one did
 */
export function readCurve(curve: Curve, frame: Samples, into: Float32Array, cursor: number): number {
  const { frames, values, count, at } = curve;
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
