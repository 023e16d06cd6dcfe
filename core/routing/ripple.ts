import { effectiveLevel, isMuted } from '../groups/vca';
import { addDecibels } from '../levels/decibels';
import { clampLevel } from '../levels/faderLaw';
import { processorOf } from '../processors/registry';
import type { Command } from '../edits/commands';
import { apply } from '../edits/apply';
import { stripMap, stripOf, vcaOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Insert, Session, Strip, Tap } from '../session/types';
import type { Decibels, Id } from '../base/units';
import { signalGraph, type Edge } from '../session/graph';
import { signalOrder } from '../session/order';
import { audibleStrips } from './solo';
import { stagesOf } from './stages';

/** A move that is asked about before it is made. */
export type Trial =
  | { readonly kind: 'fader' | 'trim'; readonly strip: Id; readonly by: number }
  | { readonly kind: 'vca'; readonly vca: Id; readonly by: number }
  | { readonly kind: 'send'; readonly strip: Id; readonly send: Id; readonly by: number }
  | { readonly kind: 'mute'; readonly strip: Id }
  | { readonly kind: 'vcaMute'; readonly vca: Id };

/**
 * The edit that a move is. A fader at silence is moved from 0 dB.
 * @throws Refusal `unknown` for what is not there
 */
export function commandsOf(session: Session, move: Trial): readonly Command[] {
  const to = (level: Decibels, by: number) =>
    clampLevel(Math.round((addDecibels(level ?? 0, by) ?? 0) * 100) / 100);
  switch (move.kind) {
    case 'fader':
      return [
        {
          type: 'strip.set',
          id: move.strip,
          patch: { faderDb: to(stripOf(session, move.strip).faderDb, move.by) },
        },
      ];
    case 'trim': {
      const { trimDb } = stripOf(session, move.strip);
      return [
        { type: 'strip.set', id: move.strip, patch: { trimDb: Math.min(48, (trimDb ?? 0) + move.by) } },
      ];
    }
    case 'vca':
      return [
        { type: 'vca.set', id: move.vca, patch: { faderDb: to(vcaOf(session, move.vca).faderDb, move.by) } },
      ];
    case 'send': {
      const send = stripOf(session, move.strip).sends.find((x) => x.id === move.send);
      if (!send)
        throw new Refusal('unknown', `There is no send \`${move.send}\` in \`${move.strip}\`.`, [move.strip]);
      return [
        { type: 'send.set', strip: move.strip, id: move.send, patch: { levelDb: to(send.levelDb, move.by) } },
      ];
    }
    case 'mute':
      return [{ type: 'strip.set', id: move.strip, patch: { mute: !stripOf(session, move.strip).mute } }];
    case 'vcaMute':
      return [{ type: 'vca.set', id: move.vca, patch: { mute: !vcaOf(session, move.vca).mute } }];
  }
}

/**
 * By how many decibels something changes, as a range over all signals that are concerned; low and high are the same
 * where all change alike. -Infinity: falls silent; +Infinity: begins to sound.
 */
export interface LevelChange {
  readonly low: number;
  readonly high: number;
  /** A level-dependent processor on the way is driven differently: what leaves it lies within the range. */
  readonly within: boolean;
}

/** A change along a way, and whether anything passes there before and after. */
interface Shift extends LevelChange {
  readonly was: boolean;
  readonly is: boolean;
}
type Way = Shift | null;

const SAME: Shift = { was: true, is: true, low: 0, high: 0, within: false };
const sum = (a: number, b: number, clash: number) => {
  const s = a + b;
  return Number.isNaN(s) ? clash : s;
};

/** One way after another. */
function inSeries(a: Way, b: Way): Way {
  if (!a || !b) return null;
  if (a === SAME) return b;
  if (b === SAME) return a;
  const was = a.was && b.was;
  const is = a.is && b.is;
  if (!was && !is) return null;
  const within = a.within || b.within;
  if (!is) return { was, is, low: -Infinity, high: -Infinity, within };
  if (!was) return { was, is, low: Infinity, high: Infinity, within };
  return { was, is, low: sum(a.low, b.low, -Infinity), high: sum(a.high, b.high, Infinity), within };
}
/** Two ways beside each other. */
function inParallel(a: Way, b: Way): Way {
  if (!a) return b;
  if (!b || a === b) return a;
  return {
    was: a.was || b.was,
    is: a.is || b.is,
    low: Math.min(a.low, b.low),
    high: Math.max(a.high, b.high),
    within: a.within || b.within,
  };
}
/** A stage that had one level and has another; null is silence. */
function stage(before: Decibels, after: Decibels): Way {
  if (before === null && after === null) return null;
  if (after === null) return { was: true, is: false, low: -Infinity, high: -Infinity, within: false };
  if (before === null) return { was: false, is: true, low: Infinity, high: Infinity, within: false };
  const d = Math.abs(after - before) < 1e-9 ? 0 : after - before;
  return d === 0 ? SAME : { was: true, is: true, low: d, high: d, within: false };
}
const gate = (before: boolean, after: boolean): Way => stage(before ? 0 : null, after ? 0 : null);
const differs = (c: LevelChange) => Math.abs(c.low) > 1e-9 || Math.abs(c.high) > 1e-9;
const changeOf = (c: LevelChange): LevelChange => ({ low: c.low, high: c.high, within: c.within });

export interface Driven {
  readonly strip: Id;
  readonly insert: Id;
  /** Whether it is its key that changes. */
  readonly keyed: boolean;
  readonly change: LevelChange;
}
export interface Balance {
  readonly strip: Id;
  /** The return that carries the wet signal. */
  readonly through: Id;
  readonly output: Id;
  /** Change of the wet signal against the dry one. */
  readonly change: LevelChange;
}
export interface AtOutput {
  readonly output: Id;
  /** Sources that arrive differently. */
  readonly sources: readonly { readonly strip: Id; readonly change: LevelChange }[];
  /** Sources that arrive as before. */
  readonly unchanged: number;
}
export interface Ripple {
  readonly driven: readonly Driven[];
  readonly balances: readonly Balance[];
  readonly outputs: readonly AtOutput[];
}

/**
 * What an edit changes beyond itself: which level-dependent processors are driven differently, which wet signals move
 * against their dry ones, and what arrives at each output. Both sessions have the same strips, outs, sends and inserts;
 * levels, mutes, solos and switches may differ. Exact from the gains; after a processor that is driven differently a
 * range within which the change lies.
 */
export function ripple(before: Session, after: Session): Ripple {
  const strips = stripMap(before);
  const later = stripMap(after);
  const graph = signalGraph(before);
  const order = signalOrder(before);
  const audibleBefore = audibleStrips(before);
  const audibleAfter = audibleStrips(after);
  const driven: Driven[] = [];
  /** What arrives at each strip's input. */
  const arriving = new Map<Id, Way>();
  /** From a strip's input to its taps, and its fader's output for keys. */
  const stages = new Map<Id, Record<Tap, Way>>();
  const sounding = (session: Session, s: Strip, audible: ReadonlySet<Id>) =>
    !isMuted(session, s) && audible.has(s.id);

  const edgeWay = (edge: Edge): Way => {
    const from = strips.get(edge.from)!;
    const now = later.get(edge.from);
    if (!now) return null;
    const open = gate(sounding(before, from, audibleBefore), sounding(after, now, audibleAfter));
    if (edge.kind === 'out')
      return inSeries(open, gate(from.out.on, now.out.on && now.out.to === from.out.to));
    if (edge.kind !== 'send') return null;
    const send = now.sends.find((x) => x.id === edge.id);
    return inSeries(
      open,
      stage(edge.send.on ? edge.send.levelDb : null, send?.on && send.to === edge.to ? send.levelDb : null),
    );
  };
  const ways = new Map<Edge, Way>();

  for (const id of order) {
    const strip = strips.get(id)!;
    const now = later.get(id);
    if (!now) continue;
    let input: Way = strip.kind === 'source' ? SAME : null;
    for (const edge of graph.entering.get(id)!) {
      if (edge.kind === 'key') continue;
      const way = edgeWay(edge);
      ways.set(edge, way);
      const tap = edge.kind === 'send' ? edge.tap : 'post';
      input = inParallel(
        input,
        inSeries(inSeries(arriving.get(edge.from) ?? null, stages.get(edge.from)![tap]), way),
      );
    }
    arriving.set(id, input);
    let own: Way = SAME;
    const taps = {} as Record<Tap, Way>;
    const driveOf = (insert: Insert): Way => {
      if (insert.key === null || insert.key === id) return inSeries(input, own);
      const key = strips.get(insert.key)!;
      return inSeries(
        inSeries(arriving.get(key.id) ?? null, stages.get(key.id)!.post),
        gate(!key.mute, !later.get(key.id)!.mute),
      );
    };
    const passInsert = (insert: Insert) => {
      if (!insert.on || !processorOf(insert.type).levelDependent) return;
      const drive = driveOf(insert);
      if (!drive || !differs(drive)) return;
      const keyed = insert.key !== null && insert.key !== id;
      driven.push({ strip: id, insert: insert.id, keyed, change: changeOf(drive) });
      // It gives back at most what it is given less, takes at most what it is given more, and never more than it
      // would at full scale.
      const most = processorOf(insert.type).reductionAt?.(0, insert.params) ?? Infinity;
      own = own && {
        ...own,
        low: own.low - Math.min(most, Math.max(0, drive.high)),
        high: own.high + Math.min(most, Math.max(0, -drive.low)),
        within: true,
      };
    };
    for (const s of stagesOf(strip))
      if (s.at === 'input') own = stage(strip.trimDb, now.trimDb);
      else if (s.at === 'insert') passInsert(s.insert);
      else if (s.at === 'fader')
        own = inSeries(own, stage(effectiveLevel(before, strip), effectiveLevel(after, now)));
      else if (s.at === 'tap') taps[s.tap] = own;
    stages.set(id, taps);
  }

  const outputs: AtOutput[] = [];
  const balances: Balance[] = [];
  for (const output of before.strips) {
    if (output.kind !== 'output') continue;
    const there = later.get(output.id);
    if (!there) continue;
    const down = new Map<Id, Way>();
    const end = inSeries(
      stages.get(output.id)!.post,
      gate(
        sounding(before, output, audibleBefore) && output.out.on,
        sounding(after, there, audibleAfter) && there.out.on,
      ),
    );
    down.set(output.id, end);
    const onward = (edge: Edge): Way =>
      inSeries(
        inSeries(stages.get(edge.from)![edge.kind === 'send' ? edge.tap : 'post'], ways.get(edge) ?? null),
        down.get(edge.to) ?? null,
      );
    const sources: { strip: Id; change: LevelChange }[] = [];
    const shifts: Balance[] = [];
    let unchanged = 0;
    for (let i = order.length - 1; i >= 0; i--) {
      const id = order[i]!;
      if (id === output.id || !stages.has(id)) continue;
      const strip = strips.get(id)!;
      let all: Way = null;
      let dry: Way = null;
      const wet: { through: Id; way: Shift }[] = [];
      for (const edge of graph.leaving.get(id)!) {
        if (edge.kind === 'key') continue;
        const way = onward(edge);
        all = inParallel(all, way);
        if (edge.kind === 'out') dry = way;
        else if (way && strips.get(edge.to)!.kind === 'return') wet.push({ through: edge.to, way });
      }
      down.set(id, all);
      if (strip.kind === 'source' && all) {
        if (differs(all)) sources.push({ strip: id, change: changeOf(all) });
        else unchanged++;
      }
      // Nothing that comes in, nothing that is in balance.
      if (!dry || !arriving.get(id)) continue;
      for (const { through, way } of wet) {
        const change: LevelChange = {
          low: sum(way.low, -dry.high, 0),
          high: sum(way.high, -dry.low, 0),
          within: way.within || dry.within,
        };
        // Ranges of one and the same cause say nothing of a shift: both may stand anywhere in them.
        if (differs(change) && !(change.within && change.low <= 0 && change.high >= 0 && sameRange(way, dry)))
          shifts.push({ strip: id, through, output: output.id, change });
      }
    }
    // Strips were met against the signal's direction.
    balances.push(...shifts.reverse());
    outputs.push({ output: output.id, sources: sources.reverse(), unchanged });
  }
  return { driven, balances, outputs };
}
const sameRange = (a: LevelChange, b: LevelChange) => a.low === b.low && a.high === b.high;

/** What a move would change: see `ripple`. */
export const rippleOf = (session: Session, move: Trial): Ripple =>
  ripple(session, apply(session, commandsOf(session, move)).session);

/** A change as it is written: `−3.0 dB`, `between −3.0 and 0 dB`, `falls silent`. */
export function changeText(c: LevelChange): string {
  const one = (x: number) =>
    x === -Infinity
      ? 'silence'
      : x === Infinity
        ? 'sounding'
        : `${x < -0.049 ? '−' : x > 0.049 ? '+' : ''}${Math.abs(x).toFixed(1)}`;
  if (c.low === -Infinity && c.high === -Infinity) return 'falls silent';
  if (c.low === Infinity && c.high === Infinity) return 'begins to sound';
  if (Math.abs(c.high - c.low) < 0.05) return `${one(c.low)} dB`;
  return `between ${one(c.low)} and ${one(c.high)} dB`;
}
