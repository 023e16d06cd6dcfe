import { processorOf } from '../processors/registry';
import type { Insert, Session, Strip } from '../session/types';
import type { Id, Samples } from '../base/units';
import { signalGraph } from '../session/graph';
import { signalOrder } from '../session/order';
import { stagesOf } from './stages';
import { stripMap } from '../session/lookup';

/** The delay that a processor adds to the signal, in frames. A bypassed one keeps it, so that a bypass shifts nothing. */
export type LatencyOf = (insert: Insert, sampleRate: number) => Samples;

export const insertLatency: LatencyOf = (insert, sampleRate) =>
  processorOf(insert.type).latency(insert.params, sampleRate);

/** Where an insert's signal stands, counted from the stems. */
export interface InsertLatency {
  /** Frames for which the strip waits before it, until its key is there. */
  readonly wait: Samples;
  /** Where its signal comes in, after that. */
  readonly input: Samples;
  /** Where it leaves. */
  readonly output: Samples;
}

export interface StripLatency {
  /** Where the strip's summed inputs stand, counted from the stems. */
  readonly input: Samples;
  /** After the inserts before the fader. */
  readonly pre: Samples;
  /** After the inserts after the fader. */
  readonly post: Samples;
  /** Of its inserts, where any of the session is late. */
  readonly inserts: ReadonlyMap<Id, InsertLatency>;
}

const AT_THE_STEMS: InsertLatency = { wait: 0, input: 0, output: 0 };
/** Where an insert's signal stands in its strip. */
export const insertLatencyIn = (strip: StripLatency, insert: Id): InsertLatency =>
  strip.inserts.get(insert) ?? AT_THE_STEMS;

/**
 * How late a strip's signal is at its taps and inserts, when it comes in so late. An insert hears its key at the same frame as
 * its signal: where the key is the later of the two, on or bypassed, the strip waits for it.
 */
function latencyAlong(
  strip: Strip,
  input: Samples,
  latencyOf: (insert: Insert) => Samples,
  keyAt: (key: Id) => Samples,
): StripLatency {
  const at = { input, pre: input, post: input };
  const inserts = new Map<Id, InsertLatency>();
  let late = input;
  for (const stage of stagesOf(strip))
    if (stage.at === 'insert') {
      const { insert } = stage;
      const from = insert.key === null ? late : Math.max(late, keyAt(insert.key));
      const output = from + latencyOf(insert);
      inserts.set(insert.id, { wait: from - late, input: from, output });
      late = output;
    } else if (stage.at === 'tap') at[stage.tap] = late;
  return { ...at, inserts };
}

const ON_TIME: StripLatency = { input: 0, pre: 0, post: 0, inserts: new Map() };

/** Frames by which each strip's signal lies behind the stems, at its taps and inserts. Inputs wait for the latest. */
export function latencies(
  session: Session,
  latencyOf: LatencyOf = insertLatency,
): ReadonlyMap<Id, StripLatency> {
  const strips = stripMap(session);
  const { entering } = signalGraph(session);
  const late = session.strips.some((s) => s.inserts.some((i) => latencyOf(i, session.sampleRate) > 0));
  // Most sessions have nothing that is late: all stands at the stems then.
  if (!late) return new Map(session.strips.map((s) => [s.id, ON_TIME]));
  const found = new Map<Id, StripLatency>();
  for (const id of signalOrder(session)) {
    const strip = strips.get(id)!;
    let input = 0;
    for (const edge of entering.get(id)!) {
      if (edge.kind === 'key') continue;
      const from = found.get(edge.from)!;
      input = Math.max(input, edge.kind === 'send' ? from[edge.tap] : from.post);
    }
    found.set(
      id,
      latencyAlong(
        strip,
        input,
        (i) => latencyOf(i, session.sampleRate),
        (key) => found.get(key)!.post,
      ),
    );
  }
  return found;
}
