import { checkSession, checkThings } from './invariants';
import { Refusal, type Rule } from '../base/refusal';
import type { Session } from '../session/types';
import { Draft } from './draft';
import { kindOf } from './commands';
import type { Command } from './commands';

export interface Applied {
  readonly session: Session;
  /** What brings the session back, in the order in which it has to be applied. */
  readonly inverse: readonly Command[];
}

/** Rules that sessions may break which were kept before they were held to them: counts, and ranges of parameters. */
const YOUNG: ReadonlySet<Rule> = new Set<Rule>(['size', 'range', 'unknown']);

/** Whether a session breaks the same kind of rule already. */
function brokeBefore(session: Session, refusal: unknown): boolean {
  if (!(refusal instanceof Refusal) || !YOUNG.has(refusal.rule)) return false;
  try {
    checkSession(session);
    return false;
  } catch (error) {
    return error instanceof Refusal && error.rule === refusal.rule;
  }
}

/**
 * Applies a list of commands as one edit: all of them or none. Rules are held against the result, so that a step in the
 * middle may lead to a strip that a later step adds.
 * @returns the next session and the commands that undo the edit
 * @throws Refusal naming the rule and the thing; the session given is unchanged
 */
export function apply(session: Session, commands: readonly Command[]): Applied {
  const draft = new Draft(session);
  const inverse = commands.map((c) => kindOf(c).run(draft, c)).reverse();
  const next = draft.session;
  const reach = commands.map((c) => kindOf(c).ruled?.(c) ?? true);
  if (reach.some(Boolean))
    try {
      if (reach.includes(true)) checkSession(next);
      else checkThings(next, session);
    } catch (error) {
      // What was wrong before this edit is no reason against it: else nothing could be mended one by one.
      if (!brokeBefore(session, error)) throw error;
    }
  return { session: next, inverse };
}
