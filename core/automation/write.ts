import { addDecibels } from '../levels/decibels';
import { clampLevel } from '../levels/faderLaw';
import type { AutomationMode, Lane, LanePoint } from '../session/types';
import type { Seconds } from '../base/units';
import type { Control, ControlValue } from '../session/controls';
import { laneValue, ordered, thinned } from './lane';

/** What a hand does to one control while it plays: where it stood when, from taking hold to letting go. */
export interface Pass {
  /** `touch`, `latch` and `write` set the value, `trim` adds to what is there. */
  readonly mode: Exclude<AutomationMode, 'off' | 'read'>;
  /** At least one; in the order of time. */
  readonly moves: readonly LanePoint[];
  /** When it ended; null while it goes on. */
  readonly end: Seconds | null;
}

/** How long a control takes to get back to its lane when it is let go. */
export const GLIDE_SECONDS = 0.5;
/** How far a written lane may lie beside the hand's way, in travel: 0.1 dB around 0 dB. */
const TOLERANCE = 0.002;
/** A hand that rests longer than this between two moves rested; else it went evenly. */
const REST_SECONDS = 0.15;
/** Length of the edge of a value that is put at once. */
const EDGE_SECONDS = 0.001;

/**
 * Takes the next move of a hand into a pass. Where it has rested since the last one, it stood still until now.
 */
export function moved(pass: Pass, time: Seconds, value: ControlValue): Pass {
  const [t, v] = pass.moves.at(-1)!;
  if (time <= t) return { ...pass, moves: [...pass.moves.slice(0, -1), [t, value]] };
  const rested: readonly LanePoint[] = time - t > REST_SECONDS ? [[time - EDGE_SECONDS, v]] : [];
  return { ...pass, moves: [...pass.moves, ...rested, [time, value]] };
}

const round = (time: Seconds) => Math.round(time * 10000) / 10000;

/** How far two values of a control lie apart: in decibels, or in travel. */
export const offset = (control: Control, from: ControlValue, to: ControlValue): number => {
  if (control.adds === 'decibels') return from === null || to === null ? 0 : to - from;
  return control.travelOf(to) - control.travelOf(from);
};
/** A value moved by so many decibels, or so much travel. */
export const add = (control: Control, value: ControlValue, by: number): ControlValue => {
  if (by === 0) return value;
  if (control.adds === 'travel')
    return control.valueAt(Math.max(0, Math.min(1, control.travelOf(value) + by)));
  const level = addDecibels(value, by);
  const sum = level === null ? null : Math.round(level * 1000) / 1000;
  // A level is held within the fader's range, a parameter within its own.
  return control.id === 'fader' || control.id === 'level'
    ? clampLevel(sum)
    : control.valueAt(control.travelOf(sum));
};

/** What a lane was before a pass; where there was none, the control stood at `value` throughout. */
const lineOf = (lane: Lane | null, value: ControlValue): Lane => lane ?? [[0, value]];

/**
 * A lane as it is when a pass over it has ended. What was before the pass and after it stays. From where the hand let go
 * the control glides back to what was written before, over the glide time; a switch goes back at once.
 * @param lane what was written before; null where nothing was
 * @param value where the control stood without a lane
 */
export function afterPass(
  control: Control,
  lane: Lane | null,
  value: ControlValue,
  pass: Pass,
  glide: Seconds = GLIDE_SECONDS,
): Lane {
  const old = lineOf(lane, value);
  const start = pass.moves[0]![0];
  const end = Math.max(pass.end ?? pass.moves.at(-1)![0], pass.moves.at(-1)![0]);
  const back = end + (control.stepped ? 0 : glide);
  const at = (t: Seconds, side: 'before' | 'after' = 'after') => laneValue(control, old, t, side);
  const made: LanePoint[] = [];
  if (pass.mode === 'trim') {
    const by: Lane = pass.moves.map(([t, v]) => [t, offset(control, at(t), v)]);
    const byAt = (t: Seconds): number => {
      if (t <= start) return by[0]![1]!;
      const next = by.findIndex(([x]) => x > t);
      if (next < 0)
        return t <= end ? by.at(-1)![1]! : by.at(-1)![1]! * Math.max(0, (back - t) / (back - end));
      const [t0, v0] = by[next - 1]!;
      const [t1, v1] = by[next]!;
      return v0! + ((v1! - v0!) * (t - t0)) / (t1 - t0);
    };
    const times = new Set([
      start,
      ...by.map(([t]) => t),
      ...old.filter(([t]) => t > start && t < back).map(([t]) => t),
      end,
      back,
    ]);
    made.push([start, at(start, 'before')]);
    for (const t of [...times].sort((a, b) => a - b))
      if (t < back) {
        const before = at(t, 'before');
        const after = at(t);
        if (before !== after && t > start) made.push([t, add(control, before, byAt(t))]);
        made.push([t, add(control, after, byAt(t))]);
      }
    made.push([back, at(back)]);
  } else {
    made.push([start, at(start, 'before')], ...pass.moves);
    made.push([end, pass.moves.at(-1)![1]], [back, at(back)]);
  }
  const written = ordered(made.map(([t, v]): LanePoint => [round(t), v]));
  return ordered([
    ...old.filter(([t]) => t < round(start)),
    ...thinned(control, written, TOLERANCE),
    ...old.filter(([t]) => t > round(back)),
  ]);
}

/** How far ahead a trim that goes on is heard as it is: so long at least until the next move. */
const AHEAD_SECONDS = 30;

/** What is heard of a control while a pass over it goes on: the hand's value, or the lane with the trim added. */
export function duringPass(control: Control, lane: Lane | null, pass: Pass): Lane {
  const [time, last] = pass.moves.at(-1)!;
  if (pass.mode !== 'trim' || !lane) return [[0, last]];
  const by = offset(control, laneValue(control, lane, time), last);
  const near = lane.filter(([t]) => t > time - 1 && t < time + AHEAD_SECONDS);
  const edge = (t: Seconds): LanePoint => [Math.max(0, t), laneValue(control, lane, Math.max(0, t))];
  return ordered(
    [edge(time - 1), ...near, edge(time), edge(time + AHEAD_SECONDS)].map(([t, v]): LanePoint => [
      t,
      add(control, v, by),
    ]),
  );
}

/** A lane with all of its levels moved by so many decibels, or by so much travel. */
export const shiftedLane = (control: Control, lane: Lane, by: number): Lane =>
  lane.map(([t, v]) => [t, add(control, v, by)]);

/** A lane with the whole of it moved as far as a hand has moved the control at one time: a trim at rest. */
export function trimmed(control: Control, lane: Lane, time: Seconds, value: ControlValue): Lane {
  return shiftedLane(control, lane, offset(control, laneValue(control, lane, time), value));
}

/**
 * The lane of a control that is linked to another whose lane has been written anew.
 * @param keeps whether it lies as far from the other's as the two controls lay apart; else both get the same lane
 */
export function linkedLane(
  control: Control,
  next: Lane,
  own: { readonly lane: Lane | null; readonly value: ControlValue },
  other: { readonly lane: Lane | null; readonly value: ControlValue },
  keeps: boolean,
): Lane {
  if (!keeps || control.stepped) return next;
  const was = lineOf(own.lane, own.value);
  const there = lineOf(other.lane, other.value);
  return next.map(([t, v]) => [
    t,
    add(control, v, offset(control, laneValue(control, was, t), laneValue(control, there, t))),
  ]);
}
