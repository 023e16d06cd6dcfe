import type { LanePoint } from './types';

/**
 * How one state of a document becomes another, for whoever holds a copy of the first: plain data that can be posted. What is the
 * same object in both is left out, so that it is as large as the edit and not as the document.
 */
export type Delta =
  /** Something else takes its place. */
  | { readonly set: unknown }
  /** Fields that are others, and those that are gone. */
  | { readonly fields: Readonly<Record<string, Delta>>; readonly gone: readonly string[] }
  /** Points of a lane, packed, in the place of those between so many that stay at its beginning and at its end. */
  | { readonly points: Float64Array; readonly head: number; readonly tail: number }
  /** The place that each item had before, -1 for a new one; left out where all stay. Then what has become of some. */
  | { readonly from?: readonly number[]; readonly items: readonly (readonly [at: number, delta: Delta])[] };

type Plain = Readonly<Record<string, unknown>>;
const isPlain = (x: unknown): x is Plain => typeof x === 'object' && x !== null && !Array.isArray(x);
const isList = (x: unknown): x is readonly unknown[] => Array.isArray(x);

/** @returns how `before` becomes `after`; null where they are the same object */
export function deltaOf(before: unknown, after: unknown): Delta | null {
  if (Object.is(before, after)) return null;
  if (isList(before) && isList(after))
    return isPoint(after[0]) ? laneDelta(before, after) : listDelta(before, after);
  if (!isPlain(before) || !isPlain(after)) return { set: packed(after) };
  const fields: Record<string, Delta> = {};
  for (const key of Object.keys(after)) {
    const delta = key in before ? deltaOf(before[key], after[key]) : { set: packed(after[key]) };
    if (delta) fields[key] = delta;
  }
  return { fields, gone: Object.keys(before).filter((key) => !(key in after)) };
}

const samePoint = (a: unknown, b: unknown) =>
  a === b || (isPoint(a) && isPoint(b) && Object.is(a[0], b[0]) && Object.is(a[1], b[1]));
function laneDelta(before: readonly unknown[], after: readonly unknown[]): Delta {
  const shorter = Math.min(before.length, after.length);
  let head = 0;
  while (head < shorter && samePoint(before[head], after[head])) head++;
  let tail = 0;
  while (tail < shorter - head && samePoint(before.at(-1 - tail), after.at(-1 - tail))) tail++;
  const points = packed(after.slice(head, after.length - tail));
  if (points instanceof Float64Array) return { points, head, tail };
  // An empty middle is no lane of points; what holds something else goes as it is.
  return head + tail === after.length ? { points: new Float64Array(0), head, tail } : { set: packed(after) };
}

const idOf = (x: unknown): unknown => (isPlain(x) && 'id' in x ? x.id : x);
function listDelta(before: readonly unknown[], after: readonly unknown[]): Delta {
  const stay = before.length === after.length && after.every((x, i) => idOf(x) === idOf(before[i]));
  const places = stay ? null : new Map(before.map((x, i) => [idOf(x), i]));
  const from = after.map((x, i) => (places ? (places.get(idOf(x)) ?? -1) : i));
  const items = after.flatMap((x, i) => {
    const at = from[i]!;
    const delta = at < 0 ? { set: packed(x) } : deltaOf(before[at], x);
    return delta ? [[i, delta] as const] : [];
  });
  return stay ? { items } : { from, items };
}

/** The document after a delta; what the delta leaves out is the same object as before. */
export function withDelta(before: unknown, delta: Delta): unknown {
  if ('set' in delta) return unpacked(delta.set);
  if ('points' in delta) {
    const was = before as readonly unknown[];
    const { head, tail, points } = delta;
    const end = tail ? was.slice(-tail) : [];
    return [...was.slice(0, head), ...(unpacked(points) as readonly unknown[]), ...end];
  }
  if ('items' in delta) {
    const was = before as readonly unknown[];
    const list = delta.from ? delta.from.map((at) => (at < 0 ? undefined : was[at])) : [...was];
    for (const [at, change] of delta.items) list[at] = withDelta(list[at], change);
    return list;
  }
  const next: Record<string, unknown> = { ...(before as Plain) };
  for (const key of delta.gone) delete next[key];
  for (const [key, change] of Object.entries(delta.fields)) next[key] = withDelta(next[key], change);
  return next;
}

const isPoint = (x: unknown): x is readonly [number, number | null] =>
  isList(x) && x.length === 2 && typeof x[0] === 'number' && (typeof x[1] === 'number' || x[1] === null);

/** A value in which lists of points stand as flat numbers, time and value in turns, silence as NaN: posted many times faster. */
function packed(value: unknown): unknown {
  if (isList(value)) {
    if (!isPoint(value[0])) return value.map(packed);
    const flat = new Float64Array(2 * value.length);
    for (let i = 0; i < value.length; i++) {
      const point = value[i];
      if (!isPoint(point)) return value.map(packed);
      flat[2 * i] = point[0];
      flat[2 * i + 1] = point[1] ?? NaN;
    }
    return flat;
  }
  return isPlain(value)
    ? Object.fromEntries(Object.entries(value).map(([key, x]) => [key, packed(x)]))
    : value;
}
function unpacked(value: unknown): unknown {
  if (value instanceof Float64Array) {
    const points: LanePoint[] = [];
    for (let i = 0; i < value.length; i += 2) {
      const at = value[i + 1]!;
      points.push([value[i]!, at === at ? at : null]);
    }
    return points;
  }
  if (isList(value)) return value.map(unpacked);
  return isPlain(value)
    ? Object.fromEntries(Object.entries(value).map(([key, x]) => [key, unpacked(x)]))
    : value;
}
