import type { Session, Strip, Vca } from '../session/types';

/**
 * What of a session says which strips there are, in which order, and what leads where: an object that stays the same while only levels,
 * pans and settings move. A hand moves those many times a second, and what lies where does not follow from them.
 */
export interface Structure {
  readonly session: Session;
}

/** Sessions looked at lately: the one that is shown, and those of others, such as of tests beside it. */
const KNOWN = 6;
let known: Structure[] = [];
const bySession = new WeakMap<Session, Structure>();

function sameStrip(a: Strip, b: Strip): boolean {
  if (a === b) return true;
  return (
    a.id === b.id &&
    a.kind === b.kind &&
    a.hidden === b.hidden &&
    a.family === b.family &&
    a.stem === b.stem &&
    (a.out === b.out || (a.out.to === b.out.to && a.out.on === b.out.on)) &&
    (a.sends === b.sends ||
      (a.sends.length === b.sends.length &&
        a.sends.every((x, i) => x.to === b.sends[i]!.to && x.on === b.sends[i]!.on)))
  );
}
const sameVca = (a: Vca, b: Vca) => a === b || (a.id === b.id && a.members === b.members);
const same = <T>(a: readonly T[], b: readonly T[], equal: (x: T, y: T) => boolean) =>
  a === b || (a.length === b.length && a.every((x, i) => equal(x, b[i]!)));

export function structureOf(session: Session): Structure {
  const own = bySession.get(session);
  if (own) return own;
  const found = known.find(
    ({ session: s }) => same(session.strips, s.strips, sameStrip) && same(session.vcas, s.vcas, sameVca),
  ) ?? { session };
  known = [found, ...known.filter((k) => k !== found)].slice(0, KNOWN);
  bySession.set(session, found);
  return found;
}

/** What is worked out of a structure, once for each. */
export function ofStructure<T>(make: (session: Session) => T): (session: Session) => T {
  const cache = new WeakMap<Structure, { readonly value: T }>();
  return (session) => {
    const structure = structureOf(session);
    let value = cache.get(structure);
    if (!value) cache.set(structure, (value = { value: make(structure.session) }));
    return value.value;
  };
}

/** Remembers what the last few calls with the same things gave. */
export function remembered<A extends readonly unknown[], T>(
  parts: (...args: A) => readonly unknown[],
  make: (...args: A) => T,
  most = 8,
): (...args: A) => T {
  let calls: { readonly parts: readonly unknown[]; readonly value: T }[] = [];
  return (...args) => {
    const now = parts(...args);
    const found = calls.find(
      (c) => c.parts.length === now.length && now.every((p, i) => Object.is(p, c.parts[i])),
    );
    if (found) return found.value;
    const value = make(...args);
    calls = [{ parts: now, value }, ...calls].slice(0, most);
    return value;
  };
}
