import { holdersOf } from '../groups/vca';
import { monitoredOutput, stripMap, stripOf } from '../session/lookup';
import type { Session, Strip, Tap } from '../session/types';
import type { Decibels, Id } from '../base/units';
import type { Command } from '../edits/commands';
import { signalGraph, type Edge } from '../session/graph';
import { signalOrder } from '../session/order';
import type { Repair } from './repair';
import { audibleStrips, soloedStrips } from './solo';
import { stagesUntil } from './stages';
import { trace } from './trace';

export type StopKind =
  | 'no material'
  | 'trim'
  | 'mute'
  | 'VCA muted'
  | 'VCA down'
  | 'fader'
  | 'solo'
  | 'dry path'
  | 'send off'
  | 'send down'
  | 'output off'
  | 'no path'
  | 'other output';

/** Something that stops a signal, and the step that lets it through. */
export interface Stop {
  readonly kind: StopKind;
  /** Strip at which it is stopped. */
  readonly strip: Id;
  readonly what: string;
  readonly repair: Repair | null;
}

export interface Silence {
  /** What stops the signal, in its order along the way with the fewest stops; empty when it is heard. */
  readonly stops: readonly Stop[];
  /** Where it is heard, the louder side; null where nothing arrives. */
  readonly levelDb: Decibels;
  readonly output: Id | null;
}

/** What is known of a strip's audio beside the document. */
export interface Material {
  /** Whether its stem sounds at the playhead; undefined where that is not known. */
  readonly soundsHere?: (strip: Strip) => boolean | undefined;
}

const named = (s: { readonly name: string; readonly id: Id }) => s.name || s.id;

/** Stops between a strip's input and one of its taps. */
function stopsInside(session: Session, strip: Strip, tap: Tap, audible: ReadonlySet<Id>): readonly Stop[] {
  const stops: Stop[] = [];
  const set = (label: string, commands: readonly Command[]): Repair => ({ label, commands });
  for (const stage of stagesUntil(strip, tap)) {
    if (stage.at === 'input') {
      if (strip.trimDb === null)
        stops.push({
          kind: 'trim',
          strip: strip.id,
          what: `The trim of ${named(strip)} is at silence.`,
          repair: set(`Set the trim of ${named(strip)} to 0 dB`, [
            { type: 'strip.set', id: strip.id, patch: { trimDb: 0 } },
          ]),
        });
      // Nothing leaves at any tap where a strip is muted, or silenced by a solo.
      if (strip.mute)
        stops.push({
          kind: 'mute',
          strip: strip.id,
          what: `${named(strip)} is muted.`,
          repair: set(`Unmute ${named(strip)}`, [
            { type: 'strip.set', id: strip.id, patch: { mute: false } },
          ]),
        });
      for (const v of holdersOf(session, strip.id))
        if (v.mute)
          stops.push({
            kind: 'VCA muted',
            strip: strip.id,
            what: `The VCA ${named(v)}, which holds ${named(strip)}, is muted.`,
            repair: set(`Unmute the VCA ${named(v)}`, [
              { type: 'vca.set', id: v.id, patch: { mute: false } },
            ]),
          });
      if (!audible.has(strip.id)) {
        const soloed = soloedStrips(session);
        const names = session.strips.filter((s) => soloed.has(s.id)).map(named);
        stops.push({
          kind: 'solo',
          strip: strip.id,
          what: `${names.slice(0, 3).join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''} ${names.length === 1 ? 'is' : 'are'} soloed, and ${named(strip)} is not.`,
          repair: set('Clear every solo', clearSolos(session)),
        });
      }
    }
    if (stage.at === 'fader') {
      for (const v of holdersOf(session, strip.id)) {
        if (v.faderDb === null)
          stops.push({
            kind: 'VCA down',
            strip: strip.id,
            what: `The VCA ${named(v)}, which holds ${named(strip)}, is at silence.`,
            repair: set(`Set the VCA ${named(v)} to 0 dB`, [
              { type: 'vca.set', id: v.id, patch: { faderDb: 0 } },
            ]),
          });
      }
      if (strip.faderDb === null)
        stops.push({
          kind: 'fader',
          strip: strip.id,
          what: `The fader of ${named(strip)} is at silence.`,
          repair: set(`Set the fader of ${named(strip)} to 0 dB`, [
            { type: 'strip.set', id: strip.id, patch: { faderDb: 0 } },
          ]),
        });
    }
  }
  return stops;
}

/** Commands that take every solo away, of strips and of VCAs. */
export const clearSolos = (session: Session): readonly Command[] => [
  ...session.strips
    .filter((s) => s.solo)
    .map((s): Command => ({ type: 'strip.set', id: s.id, patch: { solo: false } })),
  ...session.vcas
    .filter((v) => v.solo)
    .map((v): Command => ({ type: 'vca.set', id: v.id, patch: { solo: false } })),
];

function stopsOnEdge(strip: Strip, edge: Edge, goal: Strip): readonly Stop[] {
  const stops: Stop[] = [];
  if (edge.kind === 'out' && !edge.on)
    stops.push({
      kind: 'dry path',
      strip: strip.id,
      what: `The dry path of ${named(strip)} is off.`,
      repair: {
        label: `Switch the dry path of ${named(strip)} on`,
        commands: [{ type: 'strip.out', id: strip.id, out: { ...strip.out, on: true } }],
      },
    });
  if (edge.kind === 'send' && !edge.on)
    stops.push({
      kind: 'send off',
      strip: strip.id,
      what: `The send of ${named(strip)} to ${named(goal)} is off.`,
      repair: {
        label: `Switch the send to ${named(goal)} on`,
        commands: [{ type: 'send.set', strip: strip.id, id: edge.id, patch: { on: true } }],
      },
    });
  if (edge.kind === 'send' && edge.send.levelDb === null)
    stops.push({
      kind: 'send down',
      strip: strip.id,
      what: `The send of ${named(strip)} to ${named(goal)} is at silence.`,
      repair: {
        label: `Set the send to ${named(goal)} to −12 dB`,
        commands: [{ type: 'send.set', strip: strip.id, id: edge.id, patch: { levelDb: -12 } }],
      },
    });
  return stops;
}

/**
 * Why a strip is not heard: everything that stops it on the way to the monitored output that has the fewest stops (the
 * dry path where two have as few), in the order of the signal. The first one is the answer.
 * @throws Refusal `unknown` when there is no such strip
 */
export function whySilent(session: Session, id: Id, material: Material = {}): Silence {
  const strip = stripOf(session, id);
  const strips = stripMap(session);
  const audible = audibleStrips(session);
  const output = monitoredOutput(session);
  const own: Stop[] = [];
  if (strip.kind === 'source' && strip.stem === null)
    own.push({
      kind: 'no material',
      strip: id,
      what: `${named(strip)} has no stem: there is nothing to play.`,
      repair: null,
    });
  if (!output) return { stops: own, levelDb: null, output: null };

  const { leaving } = signalGraph(session);
  interface Best {
    readonly stops: readonly Stop[];
    readonly dry: number;
  }
  const better = (a: Best, b: Best | undefined) =>
    !b || a.stops.length < b.stops.length || (a.stops.length === b.stops.length && a.dry > b.dry);
  const down = new Map<Id, Best>();
  const end = [...stopsInside(session, output, 'post', audible)];
  if (!output.out.on)
    end.push({
      kind: 'output off',
      strip: output.id,
      what: `The output ${named(output)} is switched off.`,
      repair: {
        label: `Switch the output ${named(output)} on`,
        commands: [{ type: 'strip.out', id: output.id, out: { to: null, on: true } }],
      },
    });
  down.set(output.id, { stops: end, dry: 0 });
  const order = signalOrder(session);
  for (let i = order.length - 1; i >= 0; i--) {
    const from = strips.get(order[i]!)!;
    if (from.id === output.id) continue;
    let best: Best | undefined;
    const inside = new Map<Tap, readonly Stop[]>();
    for (const edge of leaving.get(from.id)!) {
      const onward = edge.kind === 'key' ? undefined : down.get(edge.to);
      if (!onward) continue;
      const tap = edge.kind === 'send' ? edge.tap : 'post';
      if (!inside.has(tap)) inside.set(tap, stopsInside(session, from, tap, audible));
      const here: Best = {
        stops: [...inside.get(tap)!, ...stopsOnEdge(from, edge, strips.get(edge.to)!), ...onward.stops],
        dry: onward.dry + (edge.kind === 'out' ? 1 : 0),
      };
      if (better(here, best)) best = here;
    }
    if (best) down.set(from.id, best);
  }

  const way = down.get(id);
  if (!way) {
    const elsewhere = session.strips.find(
      (o) => o.kind === 'output' && o.id !== output.id && trace(session, id, o.id, { most: 1 }).count > 0,
    );
    const stop: Stop = elsewhere
      ? {
          kind: 'other output',
          strip: id,
          what: `${named(strip)} reaches ${named(elsewhere)}, and ${named(output)} is the output that is heard.`,
          repair: {
            label: `Hear ${named(elsewhere)}`,
            commands: [{ type: 'session.set', patch: { monitor: elsewhere.id } }],
          },
        }
      : {
          kind: 'no path',
          strip: id,
          what: `Nothing leads from ${named(strip)} to ${named(output)}.`,
          repair: {
            label: `Lead ${named(strip)} to ${named(output)}`,
            commands: [{ type: 'strip.out', id, out: { to: output.id, on: true } }],
          },
        };
    return {
      stops: [
        ...own,
        ...(strip.kind === 'output' ? [stop] : [...stopsInside(session, strip, 'input', audible), stop]),
      ],
      levelDb: null,
      output: output.id,
    };
  }
  // One step may clear several stops: each is told once.
  const seen = new Set<string>();
  const stops = [...own, ...way.stops].filter((s) => {
    const key = s.repair ? s.repair.label : s.what;
    return !seen.has(key) && seen.add(key);
  });
  if (stops.length === 0 && material.soundsHere?.(strip) === false)
    stops.push({
      kind: 'no material',
      strip: id,
      what: `${named(strip)} has no material at the playhead: it rests here.`,
      repair: null,
    });
  const found = trace(session, id, output.id, { most: 1 });
  const loud = Math.max(found.powerLeftDb ?? -Infinity, found.powerRightDb ?? -Infinity);
  return { stops, levelDb: loud === -Infinity ? null : loud, output: output.id };
}
