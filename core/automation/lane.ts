import type { Lane, LanePoint, Lanes } from '../session/types';
import type { Seconds } from '../base/units';
import type { Control, ControlValue } from '../session/controls';

/** Which of two points at one time counts: the one that leads there, or the one that leads away. */
export type Side = 'before' | 'after';

/** Number of points that lie before a time; those at the time itself count where the later side is asked for. */
export function pointsBefore(lane: Lane, time: Seconds, side: Side = 'after'): number {
  let low = 0;
  let high = lane.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    const at = lane[mid]![0];
    if (at < time || (side === 'after' && at === time)) low = mid + 1;
    else high = mid;
  }
  return low;
}

const known = new WeakMap<Lane, { readonly control: Control; readonly travels: Float64Array }>();
/**
 * Where a lane's points stand on the control's travel, as far as they were asked for, else NaN; remembered, as a lane is asked
 * for many times, and often near one place alone.
 */
function travelsOf(control: Control, lane: Lane): Float64Array {
  let entry = known.get(lane);
  if (entry?.control !== control) {
    entry = { control, travels: new Float64Array(lane.length).fill(NaN) };
    known.set(lane, entry);
  }
  return entry.travels;
}
function travelAt(control: Control, lane: Lane, travels: Float64Array, index: number): number {
  const known = travels[index]!;
  return known === known ? known : (travels[index] = control.travelOf(lane[index]![1]));
}

/**
 * A control's value at a time. Between two points it goes evenly along its travel, so that a straight line on the screen
 * is an even move of the hand; a switch keeps what it was. Before the first point it stands as there, after the last too.
 * @param lane at least one point, in the order of time
 */
export function laneValue(control: Control, lane: Lane, time: Seconds, side: Side = 'after'): ControlValue {
  const next = pointsBefore(lane, time, side);
  if (next === 0) return lane[0]![1];
  const before = lane[next - 1]!;
  const t0 = before[0];
  const v0 = before[1];
  if (next === lane.length || control.stepped || t0 === time) return v0;
  const after = lane[next]!;
  const t1 = after[0];
  const v1 = after[1];
  if (v0 === v1) return v0;
  if (t1 === time) return v1;
  const travels = travelsOf(control, lane);
  const from = travelAt(control, lane, travels, next - 1);
  return control.valueAt(from + ((travelAt(control, lane, travels, next) - from) * (time - t0)) / (t1 - t0));
}

/** Points in the order of time, those at one time in the order given and at most two of them: a jump. */
export function ordered(points: readonly LanePoint[]): Lane {
  const sorted = points.map((p, i) => [p, i] as const).sort(([a, i], [b, k]) => a[0] - b[0] || i - k);
  const out: LanePoint[] = [];
  for (const [p] of sorted) {
    const n = out.length;
    if (n >= 1 && out[n - 1]![0] === p[0] && out[n - 1]![1] === p[1]) continue;
    if (n >= 2 && out[n - 1]![0] === p[0] && out[n - 2]![0] === p[0]) out[n - 1] = p;
    else out.push(p);
  }
  return out;
}

/**
 * Leaves out points that the lane goes through anyway, within a tolerance of travel: Ramer 1972, Douglas and Peucker 1973,
 * with the distance taken along the travel alone, as time is no length.
 * @param tolerance in travel, 0..1
 */
export function thinned(control: Control, lane: Lane, tolerance: number): Lane {
  if (lane.length < 3) return lane;
  if (control.stepped) return lane.filter((p, i) => i === 0 || lane[i - 1]![1] !== p[1]);
  const travel = lane.map(([, v]) => control.travelOf(v));
  const keep = new Uint8Array(lane.length);
  keep[0] = keep[lane.length - 1] = 1;
  const spans: [number, number][] = [[0, lane.length - 1]];
  for (let span = spans.pop(); span; span = spans.pop()) {
    const [first, last] = span;
    const t0 = lane[first]![0];
    const t1 = lane[last]![0];
    let worst = tolerance;
    let at = -1;
    for (let i = first + 1; i < last; i++) {
      const share = t1 === t0 ? 1 : (lane[i]![0] - t0) / (t1 - t0);
      const off = Math.abs(travel[i]! - (travel[first]! + (travel[last]! - travel[first]!) * share));
      if (off > worst) {
        worst = off;
        at = i;
      }
    }
    if (at < 0) continue;
    keep[at] = 1;
    spans.push([first, at], [at, last]);
  }
  return lane.filter((_, i) => keep[i]);
}

/** Some of the lanes, by the ids of their controls. */
export const onlyLanes = (lanes: Lanes, ...controls: readonly string[]): Lanes =>
  Object.fromEntries(Object.entries(lanes).filter(([id]) => controls.includes(id)));
/** All others. */
export const lanesBut = (lanes: Lanes, ...controls: readonly string[]): Lanes =>
  Object.fromEntries(Object.entries(lanes).filter(([id]) => !controls.includes(id)));
