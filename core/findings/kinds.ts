import { apply } from '../edits/apply';
import type { Command } from '../edits/commands';
import { Refusal } from '../base/refusal';
import type { Session } from '../session/types';
import type { Finding } from './finding';

/** Findings of one rule and severity, from as many on, are told as one. */
const MANY = 3;

/** One finding, or several of one kind. */
export type Told =
  | { readonly kind: 'one'; readonly finding: Finding }
  | { readonly kind: 'many'; readonly rule: string; readonly list: readonly Finding[] };

/** Findings with those of one rule together where there are many, in the place of the first of them. */
export function toldTogether(findings: readonly Finding[]): readonly Told[] {
  const kinds = new Map<string, Finding[]>();
  for (const f of findings) {
    const key = `${f.severity} ${f.rule}`;
    const kind = kinds.get(key);
    if (kind) kind.push(f);
    else kinds.set(key, [f]);
  }
  const told: Told[] = [];
  for (const list of kinds.values())
    if (list.length >= MANY) told.push({ kind: 'many', rule: list[0]!.rule, list });
    else for (const finding of list) told.push({ kind: 'one', finding });
  return told;
}

/**
 * The repairs of many findings one after the other, as one. What cannot follow on those before it is left out: what it is about
 * has changed, and is looked at anew.
 */
export function mendedTogether(
  session: Session,
  findings: readonly Finding[],
): { readonly commands: readonly Command[]; readonly mended: readonly Finding[] } {
  const commands: Command[] = [];
  const mended: Finding[] = [];
  let now = session;
  for (const finding of findings) {
    if (!finding.repair) continue;
    try {
      now = apply(now, finding.repair.commands).session;
    } catch (error) {
      if (error instanceof Refusal) continue;
      throw error;
    }
    commands.push(...finding.repair.commands);
    mended.push(finding);
  }
  return { commands, mended };
}
