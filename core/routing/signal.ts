import { effectiveLevel } from '../groups/vca';
import { gainOf } from '../levels/decibels';
import { edgeGains } from './edgeGains';
import { inputMatrix } from '../levels/inputMatrix';
import { balance } from '../levels/pan';
import type { Tail, Timebase } from '../processors/description';
import { processorOf } from '../processors/registry';
import type { Channels, Insert, PanLaw, Send, Session, Strip } from '../session/types';
import type { Gain, Samples } from '../base/units';

/** A copy of the signal that comes after a delay; a mono signal stands in `left` alone. */
export interface Arrival {
  /** Frames of intended delay; latency that the engine makes up for is not part of it. */
  readonly delay: Samples;
  readonly left: Gain;
  readonly right: Gain;
  /** Filters that it has passed; its gains are those at REFERENCE_HERTZ. Left out where there are none. */
  readonly filters?: readonly Filtering[];
}

/** A linear filter with its settings. */
export type Filtering = Pick<Insert, 'type' | 'params'>;
/** The frequency whose gain a level tells where filters are on the way. */
export const REFERENCE_HERTZ = 1000;

/** Copies that add as plain gains: of one delay, through the same filters. */
const kindOf = (a: Arrival): string =>
  a.filters === undefined
    ? String(a.delay)
    : `${a.delay} ${a.filters
        .map((f) => JSON.stringify(f))
        .sort()
        .join()}`;

/**
 * What has become of a test signal of gain 1 on every channel: its direct copies, which add coherently, and what
 * processors have spread in time, such as a reverb's tail, whose power alone is known.
 */
export interface Signal {
  readonly channels: Channels;
  readonly direct: readonly Arrival[];
  /** Amplitudes whose squares are the spread powers: those of white noise, all frequencies together. */
  readonly spread: { readonly left: Gain; readonly right: Gain };
}

/** More copies than this are not told apart: the weakest are dropped. */
const MOST_ARRIVALS = 32;

export const testSignal = (channels: Channels): Signal => ({
  channels,
  direct: [{ delay: 0, left: 1, right: channels === 2 ? 1 : 0 }],
  spread: { left: 0, right: 0 },
});
export const silence = (channels: Channels): Signal => ({
  channels,
  direct: [],
  spread: { left: 0, right: 0 },
});

/** Adds copies of the same delay and filters, and drops those that are nothing. */
export function merge(arrivals: readonly Arrival[]): readonly Arrival[] {
  if (arrivals.length < 2)
    return arrivals.length === 1 && arrivals[0]!.left === 0 && arrivals[0]!.right === 0 ? [] : arrivals;
  const at = new Map<string, Arrival>();
  for (const a of arrivals) {
    const kind = kindOf(a);
    const known = at.get(kind);
    at.set(kind, known ? { ...a, left: known.left + a.left, right: known.right + a.right } : a);
  }
  const list = [...at.values()].filter((a) => a.left !== 0 || a.right !== 0);
  const size = (a: Arrival) => Math.abs(a.left) + Math.abs(a.right);
  return list.length <= MOST_ARRIVALS
    ? list.sort((a, b) => a.delay - b.delay)
    : list
        .sort((a, b) => size(b) - size(a))
        .slice(0, MOST_ARRIVALS)
        .sort((a, b) => a.delay - b.delay);
}

export const add = (a: Signal, b: Signal): Signal => ({
  channels: a.channels,
  direct: merge([...a.direct, ...b.direct]),
  spread: {
    left: Math.hypot(a.spread.left, b.spread.left),
    right: Math.hypot(a.spread.right, b.spread.right),
  },
});

/** Amplitude of both kinds together, by power, on each side. */
export function powerOf(s: Signal): { readonly left: Gain; readonly right: Gain } {
  let left = s.spread.left ** 2;
  let right = s.spread.right ** 2;
  for (const a of s.direct) {
    left += a.left ** 2;
    right += a.right ** 2;
  }
  return { left: Math.sqrt(left), right: Math.sqrt(right) };
}

/** @param m [ll, rl, lr, rr] */
function through(
  s: Signal,
  m: readonly [number, number, number, number],
  channels: Channels = s.channels,
): Signal {
  const [ll, rl, lr, rr] = m;
  return {
    channels,
    direct: merge(
      s.direct.map((a) => ({
        ...a,
        left: ll * a.left + rl * a.right,
        right: lr * a.left + rr * a.right,
      })),
    ),
    spread: {
      left: Math.hypot(ll * s.spread.left, rl * s.spread.right),
      right: Math.hypot(lr * s.spread.left, rr * s.spread.right),
    },
  };
}
const scaled = (s: Signal, g: Gain): Signal => through(s, [g, 0, 0, s.channels === 2 ? g : 0]);

/** Trim, polarity, swap and width. */
export function throughInput(strip: Strip, s: Signal): Signal {
  const m = inputMatrix(strip);
  return strip.channels === 1 ? scaled(s, m[0]) : through(s, m);
}

/** Amplitudes that a processor's tail has of a signal, by power. */
function tailOf({ matrix: [ll, rl, lr, rr], folded }: Tail, s: Signal): Signal['spread'] {
  const { left, right } = powerOf(s);
  const [l, r] = [left ** 2, right ** 2];
  // Of copies the sides may agree; of what is spread they have nothing in common.
  const middle =
    s.direct.reduce((sum, a) => sum + ((a.left + a.right) / 2) ** 2, 0) +
    (s.spread.left ** 2 + s.spread.right ** 2) / 4;
  return {
    left: Math.sqrt(ll * l + rl * r + (folded?.[0] ?? 0) * middle),
    right: Math.sqrt(lr * l + rr * r + (folded?.[1] ?? 0) * middle),
  };
}
const EVERYTHING: Tail = { matrix: [1, 0, 0, 1] };

/** A processor with its mix: of what it spreads in time the power alone goes on. */
export function throughInsert(insert: Insert, s: Signal, timebase: Timebase): Signal {
  if (!insert.on || insert.mix === 0) return s;
  const processor = processorOf(insert.type);
  const direct = processor.direct(insert.params, timebase);
  const dry = scaled(s, 1 - insert.mix);
  const tail = processor.tail?.(insert.params, timebase, s.channels) ?? (direct === null ? EVERYTHING : null);
  const long = tail ? tailOf(tail, s) : { left: 0, right: 0 };
  const spread: Signal = {
    channels: s.channels,
    direct: [],
    spread: { left: insert.mix * long.left, right: insert.mix * long.right },
  };
  if (direct === null) return add(dry, spread);
  const g = insert.mix * direct.gain;
  const m = direct.matrix;
  const wet = m && s.channels === 2 ? through(s, [g * m[0], g * m[1], g * m[2], g * m[3]]) : scaled(s, g);
  const filter = processor.transferAt ? { type: insert.type, params: insert.params } : null;
  const copies = {
    ...wet,
    direct: wet.direct.map((a) => ({
      ...a,
      delay: a.delay + direct.delay,
      ...(filter ? { filters: [...(a.filters ?? []), filter] } : {}),
    })),
  };
  return add(add(dry, copies), spread);
}

/** The strip's fader with its VCAs. Its mute is not part of it. */
export const throughFader = (session: Session, strip: Strip, s: Signal): Signal =>
  scaled(s, gainOf(effectiveLevel(session, strip)));

/** The balance of a stereo strip; a mono strip is panned on its way into a stereo one. */
export function throughBalance(strip: Strip, s: Signal): Signal {
  if (strip.channels === 1) return s;
  const [l, r] = balance(strip.pan);
  return through(s, [l, 0, 0, r]);
}

/** An out (send null) or a send into a strip of so many channels. */
export function throughEdge(law: PanLaw, strip: Strip, to: Channels, send: Send | null, s: Signal): Signal {
  const [l, r] = edgeGains(law, strip, to, send);
  if (strip.channels === 1) return through(s, [l, 0, to === 2 ? r : 0, 0], to);
  return to === 2 ? through(s, [l, 0, 0, r], 2) : through(s, [l, r, 0, 0], 1);
}
