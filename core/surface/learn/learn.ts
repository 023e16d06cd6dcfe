import type { MidiAddress } from '../profile/fields';
import { readingsOf, rangeOf, spanOf, tellsOf, type Reading, type Tell } from './reading';
import { sourcesOf, type HeardAt, type Source } from './sources';

/** What a hand is asked to move. */
export type Ask = 'faders' | 'knobs' | 'keys' | 'any';
/** From when on it is asked, in milliseconds. */
export interface Step {
  readonly ask: Ask;
  readonly at: number;
}

/** A control as it was found. */
export interface Found extends Reading {
  readonly key: string;
  readonly address: MidiAddress;
  /** What else it can be. */
  readonly others: readonly Reading[];
  readonly range: { readonly low: number; readonly high: number } | null;
  /** The message by which it tells of a hand on it. */
  readonly touch: MidiAddress | null;
  readonly tells: readonly Tell[];
  /** The step in which it spoke first, and a later one in which it spoke again; null where it did not. */
  readonly step: number;
  readonly again: number | null;
  /** Where it stands, of 16383; of a key whether it is down; of turns nothing. */
  readonly value: number;
  readonly messages: number;
}
export interface Learned {
  /** In the order in which they were moved. */
  readonly found: readonly Found[];
  /** Notes that were taken to be played. */
  readonly played: number;
}

/** Milliseconds that a touch may come before the first move. */
const TOUCHED = 1500;
/** Notes that are taken for keys where none of them is a sure one. */
const FEW = 4;

const time = (s: Source) => Math.min(s.values[0]?.at ?? Infinity, s.increments[0]?.at ?? Infinity);
const moments = (s: Source) => [...s.values, ...s.increments].map((v) => v.at);

/** Of which control a note tells the touch: the only one that moves while it is on. */
function touchedBy(note: Source, movers: readonly Source[]): Source | null {
  let on: number | null = null;
  const owners = new Set<Source>();
  let spans = 0;
  const look = (from: number, to: number) => {
    spans++;
    for (const m of movers) if (moments(m).some((at) => at >= from && at <= to)) owners.add(m);
  };
  for (const { at, value } of note.values) {
    if (value > 0) on ??= at;
    else if (on !== null) {
      look(on, at);
      on = null;
    }
  }
  // A hand may lie on it still.
  if (on !== null) look(on, Infinity);
  const [owner] = owners;
  if (owners.size !== 1 || spans === 0 || !owner) return null;
  const first = note.values.find((v) => v.value > 0)!.at;
  return time(owner) - first >= 0 && time(owner) - first <= TOUCHED ? owner : null;
}

/** A key of a device says how hard it was hit in one way alone; keys that are played do not. */
const isSwitch = (s: Source) =>
  s.address.type !== 'note' || s.values.every((v) => v.value === 0 || v.value === 127);

/**
 * What a device has, by what it said while its controls were moved: a pure function of the messages and of what was asked for.
 * @param heard all messages so far, in order
 * @param steps what was asked for, in order; before the first nothing is
 */
export function learn(heard: readonly HeardAt[], steps: readonly Step[]): Learned {
  const begun = steps[0]?.at ?? Infinity;
  const sources = sourcesOf(heard.filter((h) => h.at >= begun));
  const stepAt = (at: number) => steps.reduce((found, s, i) => (s.at <= at ? i : found), 0);
  const askOf = (s: Source): Ask => steps[stepAt(time(s))]!.ask;
  const notes = sources.filter((s) => s.address.type === 'note');
  const movers = sources.filter((s) => s.address.type !== 'note' && readingsOf(s)[0]!.is !== 'key');

  const touches = new Map<Source, Source>();
  for (const note of notes) {
    const owner = touchedBy(note, movers);
    if (owner && ![...touches.values()].includes(owner)) touches.set(note, owner);
  }
  const touchOf = new Map([...touches].map(([note, owner]) => [owner, note.address]));

  const left = notes.filter((n) => !touches.has(n));
  const soft = left.filter((n) => !isSwitch(n));
  const played = new Set<Source>();
  const switches = sources.filter((s) => !touches.has(s) && readingsOf(s)[0]!.is === 'key' && isSwitch(s));
  for (const n of soft) {
    const wanted = askOf(n) === 'keys' || askOf(n) === 'any';
    const sureOnes = switches.some((s) => stepAt(time(s)) === stepAt(time(n)));
    if (!wanted || sureOnes || soft.length > FEW) played.add(n);
  }
  // Among many that are played, a hard one is played as well; where there are others that are keys for sure.
  if (soft.length > FEW)
    for (const n of left)
      if (!played.has(n) && soft.some((s) => s.address.channel === n.address.channel)) {
        const elsewhere = switches.some(
          (s) => s.address.type !== 'note' || s.address.channel !== n.address.channel,
        );
        if (elsewhere || askOf(n) !== 'keys') played.add(n);
      }

  const found = sources
    .filter((s) => !touches.has(s) && !played.has(s))
    .map((s): Found => {
      const all = readingsOf(s);
      const best = preferred(all, askOf(s));
      const soft_ = s.address.type === 'note' && !isSwitch(s);
      const reading = soft_ ? { ...best, sure: Math.min(best.sure, 0.5) } : best;
      const last = Math.max(...moments(s));
      const step = stepAt(time(s));
      const later = stepAt(last);
      return {
        ...reading,
        key: s.key,
        address: s.address,
        others: all.filter((r) => r !== best),
        range: reading.is === 'position' && spanOf(s) > 0 ? rangeOf(s) : null,
        touch: touchOf.get(s) ?? null,
        tells: tellsOf(s, reading),
        step,
        again: later > step ? later : null,
        value: Math.round(((s.values.at(-1)?.value ?? 0) / s.top) * 16383),
        messages: s.values.length + s.increments.length,
      };
    });
  return { found: together(found), played: played.size };
}

/** What was asked for speaks for a reading, where another is hardly likelier. */
function preferred(all: readonly Reading[], ask: Ask): Reading {
  const wanted = (r: Reading) =>
    ask === 'any' ||
    (ask === 'faders' ? r.is === 'position' : ask === 'keys' ? r.is === 'key' : r.is !== 'key');
  const [best] = all;
  const fitting = all.find(wanted);
  return fitting && !wanted(best!) && best!.sure - fitting.sure < 0.2 ? fitting : best!;
}

/** Encoders of one device speak one coding: those that could not be told for sure take that of those that could. */
function together(found: readonly Found[]): readonly Found[] {
  const sure = found.find((f) => f.is === 'turn' && f.coding !== 'increments' && f.sure >= 0.75);
  if (!sure) return found;
  return found.map((f) => {
    if (f.is !== 'turn' || f.sure >= 0.75) return f;
    const other = [f, ...f.others].find((r) => r.is === 'turn' && r.coding === sure.coding);
    return other
      ? { ...f, coding: sure.coding, sure: 0.85, tells: f.tells.filter((t) => t !== 'oneWay') }
      : f;
  });
}
