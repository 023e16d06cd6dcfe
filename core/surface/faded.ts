import type { Id } from '../base/units';
import { heldBy } from '../groups/vca';
import { sheetOrder } from '../operations/strips';
import { stripMap } from '../session/lookup';
import type { Session, Strip, Vca } from '../session/types';
import { ofStructure } from './structure';

/** What can lie under a fader: a strip, or a VCA. */
export type Faded = Strip | Vca;

export const isVca = (f: Faded): f is Vca => 'members' in f;

/** The strip or VCA of an id; undefined where it is gone. */
export const fadedOf = (session: Session, id: Id | null | undefined): Faded | undefined =>
  id === null || id === undefined
    ? undefined
    : (stripMap(session).get(id) ?? session.vcas.find((v) => v.id === id));

/**
 * All that a desk can show, in its order: the Sheet's, each VCA behind the last of what it holds; one that holds nothing shown
 * stands at the end. Hidden strips are never among them.
 */
export const deskOrder = ofStructure((session): readonly Id[] => {
  const { sources, landing } = sheetOrder(session);
  const ids = [...sources, ...landing].map((s) => s.id);
  const place = new Map(ids.map((id, i) => [id, i]));
  const behind = new Map<number, Id[]>();
  for (const vca of session.vcas) {
    const at = Math.max(-1, ...heldBy(session, vca.id).map((s) => place.get(s.id) ?? -1));
    const key = at < 0 ? ids.length - 1 : at;
    behind.set(key, [...(behind.get(key) ?? []), vca.id]);
  }
  const all = ids.flatMap((id, i) => [id, ...(behind.get(i) ?? [])]);
  // A session without any strip that is shown may still have VCAs.
  return ids.length ? all : (behind.get(-1) ?? []);
});
