import { holdersOf } from '../groups/vca';
import type { Session } from '../session/types';
import type { Id } from '../base/units';
import { reach } from '../session/graph';

/** Strips soloed by themselves or by a VCA that holds them. */
export const soloedStrips = (session: Session): ReadonlySet<Id> =>
  new Set(
    session.strips.filter((s) => s.solo || holdersOf(session, s.id).some((v) => v.solo)).map((s) => s.id),
  );

/**
 * The strips that pass sound. Without a solo: all. Else: the soloed, all that their signal passes through, all that
 * feeds a soloed submix, return or output, solo-safe strips, and outputs. A strip that is not in the set silences all that
 * leaves it, so a solo-safe strip passes only what audible strips feed it.
 */
export function audibleStrips(session: Session): ReadonlySet<Id> {
  const known = cache.get(session);
  if (known) return known;
  const audible = audibleOf(session);
  cache.set(session, audible);
  return audible;
}
const cache = new WeakMap<Session, ReadonlySet<Id>>();

function audibleOf(session: Session): ReadonlySet<Id> {
  if (!session.strips.some((s) => s.solo) && !session.vcas.some((v) => v.solo))
    return new Set(session.strips.map((s) => s.id));
  const soloed = soloedStrips(session);
  if (soloed.size === 0) return new Set(session.strips.map((s) => s.id));
  const kind = new Map(session.strips.map((s) => [s.id, s.kind]));
  // What is off passes nothing and feeds nothing.
  const signal = (edge: { kind: string; on: boolean }) => edge.kind !== 'key' && edge.on;
  const buses = [...soloed].filter((id) => kind.get(id) !== 'source');
  const audible = new Set<Id>(soloed);
  for (const id of reach(session, soloed, 'downstream', signal)) audible.add(id);
  for (const id of reach(session, buses, 'upstream', signal)) audible.add(id);
  for (const s of session.strips) if (s.soloSafe || s.kind === 'output') audible.add(s.id);
  return audible;
}
