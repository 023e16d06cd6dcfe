import { apply } from './apply';
import type { Command } from './commands';
import type { Session } from '../session/types';

/** Drags under way, by whose they are. */
export type Drags = ReadonlyMap<string, readonly Command[]>;

/** A session with drags under way. */
export function withDrags(document: Session | null, drags: Drags): Session | null {
  if (!document || drags.size === 0) return document;
  try {
    return apply(document, [...drags.values()].flat()).session;
  } catch {
    // One of them no longer fits: the others are shown without it.
  }
  let session = document;
  for (const commands of drags.values()) {
    try {
      session = apply(session, commands).session;
    } catch {
      // A drag of a strip that has gone meanwhile moves nothing.
    }
  }
  return session;
}
