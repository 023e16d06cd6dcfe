import type { Session, Strip, Vca } from '../session/types';
import type { Decibels, Id } from '../base/units';

const cache = new WeakMap<readonly Vca[], Map<Id, readonly Vca[]>>();

/**
 * Which VCAs hold each strip, directly or through other VCAs. A VCA that holds a strip by two ways stands once.
 * VCAs must not hold each other in a loop (an invariant of the session).
 */
export function vcaHolders(session: Session): ReadonlyMap<Id, readonly Vca[]> {
  const known = cache.get(session.vcas);
  if (known) return known;
  const parents = new Map<Id, Vca[]>();
  for (const vca of session.vcas)
    for (const member of vca.members) {
      const list = parents.get(member);
      if (list) list.push(vca);
      else parents.set(member, [vca]);
    }
  const isVca = new Set(session.vcas.map((v) => v.id));
  const holders = new Map<Id, readonly Vca[]>();
  for (const member of parents.keys()) {
    if (isVca.has(member)) continue;
    const found = new Set<Vca>();
    const climb = (id: Id) => {
      for (const vca of parents.get(id) ?? [])
        if (!found.has(vca)) {
          found.add(vca);
          climb(vca.id);
        }
    };
    climb(member);
    holders.set(
      member,
      session.vcas.filter((v) => found.has(v)),
    );
  }
  cache.set(session.vcas, holders);
  return holders;
}

/** The VCAs that hold the strip, in the session's order. */
export const holdersOf = (session: Session, strip: Id): readonly Vca[] =>
  vcaHolders(session).get(strip) ?? [];

const heldCache = new WeakMap<Session, Map<Id, Strip[]>>();
const NOTHING: readonly Strip[] = [];

/** All strips that a VCA holds, directly or through other VCAs, in the session's order. */
export function heldBy(session: Session, vca: Id): readonly Strip[] {
  let held = heldCache.get(session);
  if (!held) {
    held = new Map();
    const holders = vcaHolders(session);
    for (const s of session.strips)
      for (const v of holders.get(s.id) ?? []) {
        const list = held.get(v.id);
        if (list) list.push(s);
        else held.set(v.id, [s]);
      }
    heldCache.set(session, held);
  }
  return held.get(vca) ?? NOTHING;
}

/**
 * The level of a strip's fader stage: its own fader plus that of every VCA that holds it, each once.
 * Silence when any of them is silent or any VCA is muted. The strip's own mute is not part of it.
 */
export const effectiveLevel = (session: Session, strip: Strip): Decibels =>
  levelUnder(strip.faderDb, holdersOf(session, strip.id));

/** A level with that of each VCA added. */
export function levelUnder(own: Decibels, vcas: readonly Vca[]): Decibels {
  let level = own;
  for (const vca of vcas) {
    if (level === null || vca.faderDb === null || vca.mute) return null;
    level += vca.faderDb;
  }
  return level;
}

/** What VCAs add to a strip's fader; null when one of them silences it. */
export function vcaOffset(session: Session, strip: Id): Decibels {
  let offset = 0;
  for (const vca of holdersOf(session, strip)) {
    if (vca.faderDb === null || vca.mute) return null;
    offset += vca.faderDb;
  }
  return offset;
}

/** Whether a strip is muted, by itself or by a VCA that holds it: the two are the same, and silence all that leaves it. */
export const isMuted = (session: Session, strip: Strip): boolean =>
  strip.mute || holdersOf(session, strip.id).some((v) => v.mute);

/** A loop among VCAs as ids, first repeated at the end; null when there is none. */
export function vcaLoop(vcas: readonly Vca[]): readonly Id[] | null {
  const byId = new Map(vcas.map((v) => [v.id, v]));
  const done = new Set<Id>();
  const path: Id[] = [];
  const visit = (id: Id): readonly Id[] | null => {
    if (done.has(id)) return null;
    const at = path.indexOf(id);
    if (at >= 0) return [...path.slice(at), id];
    path.push(id);
    for (const member of byId.get(id)?.members ?? [])
      if (byId.has(member)) {
        const loop = visit(member);
        if (loop) return loop;
      }
    path.pop();
    done.add(id);
    return null;
  };
  for (const vca of vcas) {
    const loop = visit(vca.id);
    if (loop) return loop;
  }
  return null;
}
