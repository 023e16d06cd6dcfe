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

export interface StripLatency {
  /** Where the strip's summed inputs stand, counted from the stems. */
  readonly input: Samples;
  /** After the inserts before the fader. */
  readonly pre: Samples;
  /** After the inserts after the fader. */
  readonly post: Samples;
}

/** How late a strip's signal is at its taps, when it comes in so late. */
function tapLatencies(strip: Strip, input: Samples, latencyOf: (insert: Insert) => Samples): StripLatency {
  const at = { input, pre: input, post: input };
  let late = input;
  for (const stage of stagesOf(strip))
    if (stage.at === 'insert') late += latencyOf(stage.insert);
    else if (stage.at === 'tap') at[stage.tap] = late;
  return at;
}

const ON_TIME: StripLatency = { input: 0, pre: 0, post: 0 };

/** Frames by which each strip's signal lies behind the stems, at its three taps. Inputs wait for the latest. */
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
      const from = found.get(edge.from)!;
      input = Math.max(input, edge.kind === 'send' ? from[edge.tap] : from.post);
    }
    found.set(
      id,
      tapLatencies(strip, input, (i) => latencyOf(i, session.sampleRate)),
    );
  }
  return found;
}
