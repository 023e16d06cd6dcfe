import { Refusal } from '../base/refusal';
import type { Link, Session, Strip, Vca } from './types';
import type { Id } from '../base/units';

const maps = new WeakMap<readonly Strip[], Map<Id, Strip>>();

/** Strips by id; built once for each list of strips. */
export function stripMap(session: Session): ReadonlyMap<Id, Strip> {
  let map = maps.get(session.strips);
  if (!map) {
    map = new Map(session.strips.map((s) => [s.id, s]));
    maps.set(session.strips, map);
  }
  return map;
}

/** @throws Refusal `unknown` when there is no such strip. */
export function stripOf(session: Session, id: Id): Strip {
  const strip = stripMap(session).get(id);
  if (!strip) throw new Refusal('unknown', `There is no strip \`${id}\` in this session.`, [id]);
  return strip;
}

/** @throws Refusal `unknown` when there is no such VCA. */
export function vcaOf(session: Session, id: Id): Vca {
  const vca = session.vcas.find((v) => v.id === id);
  if (!vca) throw new Refusal('unknown', `There is no VCA \`${id}\` in this session.`, [id]);
  return vca;
}

/** @throws Refusal `unknown` when there is no such link. */
export function linkOf(session: Session, id: Id): Link {
  const link = session.links.find((l) => l.id === id);
  if (!link) throw new Refusal('unknown', `There is no link \`${id}\` in this session.`, [id]);
  return link;
}

/** The strip's name, or its id where it has none. */
export const nameOf = (session: Session, id: Id): string => {
  const found = stripMap(session).get(id) ?? session.vcas.find((v) => v.id === id);
  return found?.name || id;
};

export const stripsOfKind = (session: Session, kind: Strip['kind']) =>
  session.strips.filter((s) => s.kind === kind);

/** The output that new strips lead to: the first output strip. */
export const mainOutput = (session: Session): Strip | undefined =>
  session.strips.find((s) => s.kind === 'output');

/** The output that is heard: the one that was chosen, else the first. */
export const monitoredOutput = (session: Session): Strip | undefined =>
  session.strips.find((s) => s.kind === 'output' && s.id === session.monitor) ?? mainOutput(session);

/**
 * An id that no strip, VCA, send or insert of the session bears, from a name.
 * `Bass blend` gives `bass-blend`, then `bass-blend-2`.
 */
export function freshId(session: Session, name: string, taken: Iterable<Id> = []): Id {
  const used = new Set<Id>(taken);
  for (const s of session.strips) {
    used.add(s.id);
    for (const i of s.inserts) used.add(i.id);
    for (const x of s.sends) used.add(x.id);
  }
  for (const v of session.vcas) used.add(v.id);
  for (const l of session.links) used.add(l.id);
  for (const s of session.sections) used.add(s.id);
  // What is kept for the desk may outlive its strip: another one is not taken for it.
  for (const p of session.pins) used.add(p.strip);
  for (const l of session.layouts) for (const id of [l.id, ...l.order]) used.add(id);
  const stem =
    name
      .normalize('NFKD')
      .replace(/[\u0300-\u036f]/g, '')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 40) || 'x';
  let id = stem;
  for (let n = 2; used.has(id); n++) id = `${stem}-${n}`;
  return id;
}
