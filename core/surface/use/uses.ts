import type { Id } from '../../base/units';
import type { Command } from '../../edits/commands';

/** A strip or VCA that was reached for, in the order of time. */
export interface Use {
  readonly strip: Id;
  /** When, in milliseconds since 1970. */
  readonly at: number;
}

/** The strips of an edit that a hand would have moved: levels, pans, switches, sends, inserts of what was there. */
function reachedFor(commands: readonly Command[]): readonly Id[] {
  const ids = commands.flatMap((c): readonly Id[] => {
    switch (c.type) {
      case 'strip.set':
      case 'vca.set':
        return [c.id];
      case 'send.set':
      case 'insert.set':
        return [c.strip];
      default:
        return [];
    }
  });
  return [...new Set(ids)];
}
/** Of so many strips at once an edit is one of many, and no hand on a fader. */
const MANY = 8;

/**
 * What was reached for, told from a session's history and from touches of the desk. Of one strip several times in a row it is one use: the
 * hand was there already.
 */
export function usesOf(
  changes: readonly { readonly at: number; readonly commands: readonly Command[] }[],
  touches: readonly Use[] = [],
): readonly Use[] {
  const edits = changes.flatMap(({ at, commands }): readonly Use[] => {
    const ids = reachedFor(commands);
    return ids.length > MANY ? [] : ids.map((strip) => ({ strip, at }));
  });
  const all = [...edits, ...touches].sort((a, b) => a.at - b.at);
  return all.filter((u, i) => i === 0 || u.strip !== all[i - 1]!.strip);
}
