import { Refusal } from '../base/refusal';
import { LIMITS } from '../base/limits';

const lengthOf = (list: unknown) => (Array.isArray(list) ? list.length : 0);

function most(what: string, count: number, limit: number, thing?: unknown): void {
  const name = typeof thing === 'string' ? thing.slice(0, 64) : null;
  if (count > limit)
    throw new Refusal(
      'size',
      `${thing === undefined ? 'The session' : name === null ? 'A strip' : `\`${name}\``} has ${count} ${what}: ${limit} are the most.`,
      name === null ? [] : [name],
    );
}

/**
 * Counts what a document holds before anything of it is looked at closely: a document far too large is refused at once. What is
 * no document passes, and is told later.
 * @throws Refusal `size`
 */
export function checkCounts(raw: unknown): void {
  if (typeof raw !== 'object' || raw === null) return;
  const { strips, vcas, links, sections, dismissed, pins, layouts } = raw as Record<string, unknown>;
  most('strips', lengthOf(strips), LIMITS.strips);
  most('VCAs', lengthOf(vcas), LIMITS.vcas);
  most('links', lengthOf(links), LIMITS.links);
  most('sections', lengthOf(sections), LIMITS.sections);
  most('dismissed findings', lengthOf(dismissed), LIMITS.dismissed);
  most('pins', lengthOf(pins), LIMITS.pins);
  most('layouts', lengthOf(layouts), LIMITS.layouts);
  if (!Array.isArray(strips)) return;
  for (const strip of strips as readonly unknown[]) {
    if (typeof strip !== 'object' || strip === null) continue;
    const { id, sends, inserts } = strip as Record<string, unknown>;
    most('sends', lengthOf(sends), LIMITS.sends, id ?? 'A strip');
    most('inserts', lengthOf(inserts), LIMITS.inserts, id ?? 'A strip');
  }
}
