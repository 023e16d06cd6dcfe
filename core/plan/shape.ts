import { insertLatency, type LatencyOf } from '../routing/latency';
import type { Session, Strip } from '../session/types';
import type { Hertz } from '../base/units';

const everyTwo = <T>(a: readonly T[], b: readonly T[], same: (x: T, y: T) => boolean): boolean =>
  a === b || (a.length === b.length && a.every((x, i) => x === b[i] || same(x, b[i]!)));

/** Whether two states of a strip ask for the same operations, so that they differ in parameters and lanes alone. */
export function sameStripShape(
  a: Strip,
  b: Strip,
  sampleRate: Hertz,
  latencyOf: LatencyOf = insertLatency,
): boolean {
  return (
    a.id === b.id &&
    a.kind === b.kind &&
    a.channels === b.channels &&
    a.stem === b.stem &&
    a.out.to === b.out.to &&
    everyTwo(a.sends, b.sends, (x, y) => x.id === y.id && x.to === y.to && x.tap === y.tap) &&
    everyTwo(
      a.inserts,
      b.inserts,
      (x, y) =>
        x.id === y.id &&
        x.type === y.type &&
        x.place === y.place &&
        x.key === y.key &&
        latencyOf(x, sampleRate) === latencyOf(y, sampleRate),
    )
  );
}

/** The same of whole sessions: the plan of the one can be steered to the other. Costs as much as what is not the same object. */
export const sameShape = (a: Session, b: Session, latencyOf: LatencyOf = insertLatency): boolean =>
  a.sampleRate === b.sampleRate &&
  everyTwo(a.strips, b.strips, (x, y) => sameStripShape(x, y, a.sampleRate, latencyOf));
