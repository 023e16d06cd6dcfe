import type { EncoderControl } from '../profile/profile';
import type { Source } from './sources';

/** What a source can be: a position with ends, turns without, or a key. */
export interface Reading {
  readonly is: 'position' | 'turn' | 'key';
  /** How turns are told; of a position `position`. */
  readonly coding: EncoderControl['coding'];
  /** Of a key: whether it says on and off by turns, and what it says when it is let go. */
  readonly toggles: boolean;
  readonly release: 'off' | 'on' | 'none';
  /** 0 to 1. */
  readonly sure: number;
}
/** What is told of a source: it is to be moved further, turned the other way, pushed again; or something is odd about it. */
export type Tell = 'little' | 'oneWay' | 'pushAgain' | 'jumps' | 'backwards' | 'twice';

const position = (sure: number): Reading => ({
  is: 'position',
  coding: 'position',
  toggles: false,
  release: 'off',
  sure,
});
const turn = (coding: EncoderControl['coding'], sure: number): Reading => ({
  ...position(sure),
  is: 'turn',
  coding,
});
const key = (sure: number, toggles: boolean, release: Reading['release']): Reading => ({
  ...position(sure),
  is: 'key',
  toggles,
  release,
});

/** Milliseconds within which a key that is not held on purpose is let go. */
const TAP = 1200;
/** Milliseconds between two pushes of a key, at the least; turns come faster. */
const SLOW = 250;
/** The largest number of steps that is believed in one message. */
const FAST = 24;
/** Share of repeated values from which on a stream is of turns: a position is not told twice. (Common practice, no published source.) */
const REPEATS = 0.15;
/** Share of the whole way below which a move is too little to tell. */
export const LITTLE = 0.2;
/** Share of the whole way between two messages from which on it jumps. */
const JUMP = 0.35;
/** Share of the way within which an end counts as reached. */
const END = 0.07;

/** Which codings a stream of seven bits can be in, and how much speaks for each. A step is a small number: so said of all three codings. */
function codings(values: readonly number[]): readonly Reading[] {
  const up = values.some((v) => v >= 1 && v <= FAST);
  const above = values.some((v) => v > 64 && v <= 64 + FAST);
  const below = values.some((v) => v < 64 && v >= 64 - FAST);
  const top = values.some((v) => v > 127 - FAST);
  const all = (f: (v: number) => boolean) => values.every(f);
  const found: Reading[] = [];
  if (all((v) => v !== 64 && Math.abs(v - 64) <= FAST)) {
    // To one side alone it can also be the left of a sign bit.
    found.push(turn('offset', below ? 0.95 : 0.6));
    if (!below) found.push(turn('signBit', 0.3));
  }
  if (all((v) => (v >= 1 && v <= FAST) || v > 127 - FAST))
    found.push(turn('twos', up && top ? 0.95 : top ? 0.8 : 0.5));
  if (all((v) => (v >= 1 && v <= FAST) || (v > 64 && v <= 64 + FAST)) && up)
    found.push(turn('signBit', above ? 0.95 : 0.4));
  return found.sort((a, b) => b.sure - a.sure);
}

/** What a key says. */
function keys({ values }: Source): readonly Reading[] {
  const ons = values.filter((v) => v.value > 0);
  const offs = values.filter((v) => v.value === 0);
  if (offs.length === 0) {
    if (ons.length < 2) return [key(0.5, true, 'off'), key(0.4, false, 'none')];
    // Two at a push, the second when it is let go, or one at each of several pushes.
    const pairs = ons.length % 2 === 0 && ons.every((v, i) => i % 2 === 0 || v.at - ons[i - 1]!.at < TAP);
    return pairs ? [key(0.7, false, 'on'), key(0.25, false, 'none')] : [key(0.8, false, 'none')];
  }
  const held = values.every(
    (v, i) => v.value > 0 || (i > 0 && values[i - 1]!.value > 0 && v.at - values[i - 1]!.at < TAP),
  );
  if (held) return [key(0.9, false, 'off'), key(0.05, true, 'off')];
  // On and off lie far apart: it may have been held for long, or pushed twice.
  return [key(0.6, true, 'off'), key(0.4, false, 'off')];
}

/** What a source can be, the likeliest first. */
export function readingsOf(source: Source): readonly Reading[] {
  const { address, values, increments } = source;
  if (address.type === 'note') return keys(source);
  if (increments.length) return [turn('increments', values.length ? 0.6 : 0.95)];
  const said = values.map((v) => v.value);
  if (address.type !== 'control') return [position(spanOf(source) < LITTLE ? 0.5 : 0.95)];
  const distinct = new Set(said);
  const onOff = [...distinct].every((v) => v === 0 || v === 127);
  if (onOff && distinct.has(127) && (distinct.has(0) || said.length <= 2)) return keys(source);
  // Slowly, one by one, with nothing but the top: a key rather than a turn to the left.
  if (onOff && values.every((v, i) => i === 0 || v.at - values[i - 1]!.at > SLOW)) return keys(source);
  const repeats = said.filter((v, i) => i > 0 && v === said[i - 1]).length;
  const share = said.length > 1 ? repeats / (said.length - 1) : 0;
  const turns = codings(said);
  if (turns.length === 0) return [position(spanOf(source) < LITTLE ? 0.5 : share > 0.3 ? 0.7 : 0.95)];
  if (share >= REPEATS && said.length > 2) return [...turns, position(0.05)];
  // Values that leap between two far regions without anything between them are no position.
  const leaps = said.some((v, i) => i > 0 && Math.abs(v - said[i - 1]!) > 48) && said.length > 2;
  if (leaps) return [...turns, position(0.2)];
  return [position(0.5), ...turns.map((t) => ({ ...t, sure: t.sure * 0.6 }))];
}

/** How much of its whole way a source went, 0 to 1. */
export function spanOf({ values, top }: Source): number {
  if (values.length === 0) return 0;
  const said = values.map((v) => v.value);
  return (Math.max(...said) - Math.min(...said)) / top;
}
/**
 * Where the way of a position begins and ends, of 16383; null where it is all of it. An end is one to which it was moved, near the end that
 * there can be: where a move began, a control may have said nothing of the end that it left.
 */
export function rangeOf(source: Source): { readonly low: number; readonly high: number } | null {
  const said = source.values.map((v) => (v.value / source.top) * 16383);
  const [least, most] = [Math.min(...said), Math.max(...said)];
  const reached = (end: number) => said.lastIndexOf(end) > 0;
  const low = least <= 16383 * END && reached(least) ? Math.round(least) : 0;
  const high = most >= 16383 * (1 - END) && reached(most) ? Math.round(most) : 16383;
  return low === 0 && high === 16383 ? null : { low, high };
}

/** What there is to tell of a source that is read in one way. */
export function tellsOf(source: Source, reading: Reading): readonly Tell[] {
  const tells: Tell[] = [];
  const { values, top } = source;
  if (reading.is === 'key') return reading.sure < 0.65 ? ['pushAgain'] : [];
  if (reading.is === 'turn') return reading.sure < 0.75 ? ['oneWay'] : [];
  if (spanOf(source) < LITTLE) tells.push('little');
  const said = values.map((v) => v.value / top);
  const jumps = said.flatMap((v, i) => (i > 0 && Math.abs(v - said[i - 1]!) > JUMP ? [i] : []));
  // From one end back to the other, and on in small steps: that is another control that says the same, or the same a second time.
  const twice = jumps.some(
    (i) =>
      Math.abs(said[i]! - said[i - 1]!) > 0.5 &&
      said.length - i > 3 &&
      Math.abs(said.at(-1)! - said[i]!) > LITTLE &&
      !jumps.includes(i + 1),
  );
  if (twice) tells.push('twice');
  else if (jumps.length) tells.push('jumps');
  const [first, last] = [said[0] ?? 0, said.at(-1) ?? 0];
  if (!jumps.length && first > 1 - 2 * END && last < 2 * END) tells.push('backwards');
  return tells;
}
