import { iconless, suggestIcons } from './icons';
import { keepable } from '../base/text';
import { FAMILIES } from '../naming/lexicon';
import { familyOf, stereoPairs } from '../naming/suggest';
import { reach } from '../session/graph';
import type { Command } from '../edits/commands';
import { stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Session, Strip, StripKind } from '../session/types';
import type { Id } from '../base/units';

/** A part of a tidying that can be taken or refused by itself. */
export interface TidyPart {
  readonly id: string;
  readonly kind: 'family' | 'colour' | 'icon' | 'order' | 'pair';
  readonly title: string;
  /** Strips that it is about. */
  readonly strips: readonly Id[];
}

const rank = new Map(FAMILIES.map((f, i) => [f.name, i]));
const colourOf = new Map(FAMILIES.map((f) => [f.name, f.colour]));
const isSource = (s: Strip) => s.kind === 'source';

/** Family that a strip has after the chosen parts: the suggested one where it has none of its own. */
const suggested = (s: Strip): string => {
  const found = familyOf(s.name).name;
  return found === 'Others' ? s.family : found;
};

/**
 * What there is to tidy: families that names suggest for strips that have none, the order by family, one colour a family,
 * icons that names suggest for strips that have none, and left and right strips that belong together. Each part can be left out.
 */
export function tidyParts(session: Session): readonly TidyPart[] {
  const parts: TidyPart[] = [];
  const sources = session.strips.filter(isSource);
  const unsorted = new Map<string, Id[]>();
  for (const s of sources) {
    const family = suggested(s);
    if ((s.family === '' || s.family === 'Others') && family !== s.family && family !== '')
      unsorted.set(family, [...(unsorted.get(family) ?? []), s.id]);
  }
  for (const [family, strips] of unsorted)
    parts.push({
      id: `family ${family}`,
      kind: 'family',
      title: `${strips.length === 1 ? '1 strip' : `${strips.length} strips`} into the family ${family}`,
      strips,
    });
  const all = parts.map((p) => p.id);
  if (tidy(session, [...all, 'order']).some((c) => c.type === 'strips.order'))
    parts.push({
      id: 'order',
      kind: 'order',
      title: 'Strips in the order of their families',
      strips: sources.map((s) => s.id),
    });
  const families = [
    ...new Set(
      sources.map((s) =>
        all.includes(`family ${suggested(s)}`) && (s.family === '' || s.family === 'Others')
          ? suggested(s)
          : s.family,
      ),
    ),
  ];
  for (const family of families) {
    const colour = colourOf.get(family);
    const strips = sources.filter(
      (s) =>
        (s.family === family || (suggested(s) === family && (s.family === '' || s.family === 'Others'))) &&
        s.colour.toLowerCase() !== colour?.toLowerCase(),
    );
    if (colour && strips.length)
      parts.push({
        id: `colour ${family}`,
        kind: 'colour',
        title: `${strips.length === 1 ? '1 strip' : `${strips.length} strips`} in the colour of ${family}`,
        strips: strips.map((s) => s.id),
      });
  }
  const bare = iconless(session);
  if (bare.length)
    parts.push({
      id: 'icons',
      kind: 'icon',
      title: `${bare.length === 1 ? '1 icon that its name suggests' : `${bare.length} icons that names suggest`}`,
      strips: bare,
    });
  for (const [left, right] of stereoPairs(sources)) {
    if (left.channels !== 1 || right.channels !== 1 || (left.pan < 0 && right.pan > 0)) continue;
    parts.push({
      id: `pair ${left.id}`,
      kind: 'pair',
      title: `${left.name} and ${right.name} as a stereo pair: hard left and hard right`,
      strips: [left.id, right.id],
    });
  }
  return parts;
}

/** Does the chosen parts of a tidying. @param chosen ids of parts */
export function tidy(session: Session, chosen: readonly string[]): readonly Command[] {
  const take = new Set(chosen);
  const commands: Command[] = [];
  const families = new Map<Id, string>();
  for (const s of session.strips.filter(isSource)) {
    const family = suggested(s);
    const moves =
      (s.family === '' || s.family === 'Others') && family !== s.family && take.has(`family ${family}`);
    families.set(s.id, moves ? family : s.family);
    const patch: { family?: string; colour?: string } = {};
    if (moves) patch.family = family;
    const now = families.get(s.id)!;
    const colour = colourOf.get(now);
    if (take.has(`colour ${now}`) && colour && s.colour.toLowerCase() !== colour) patch.colour = colour;
    if (Object.keys(patch).length) commands.push({ type: 'strip.set', id: s.id, patch });
  }
  for (const [left, right] of stereoPairs(session.strips.filter(isSource)))
    if (take.has(`pair ${left.id}`))
      commands.push(
        { type: 'strip.set', id: left.id, patch: { pan: -1 } },
        { type: 'strip.set', id: right.id, patch: { pan: 1 } },
      );
  if (take.has('icons')) commands.push(...suggestIcons(session, iconless(session)));
  if (take.has('order')) {
    const place = (s: Strip) => {
      const family = families.get(s.id)!;
      return rank.get(family) ?? (family === '' ? FAMILIES.length + 1 : FAMILIES.length);
    };
    // Families that the lexicon does not know keep together, in the order in which they appear.
    const firsts = new Map<string, number>();
    const sources = session.strips.filter(isSource);
    sources.forEach((s, i) => firsts.has(families.get(s.id)!) || firsts.set(families.get(s.id)!, i));
    const sorted = sources
      .map((s, i) => ({ s, i }))
      .sort(
        (a, b) =>
          place(a.s) - place(b.s) ||
          firsts.get(families.get(a.s.id)!)! - firsts.get(families.get(b.s.id)!)! ||
          a.i - b.i,
      )
      .map(({ s }) => s.id);
    let next = 0;
    const order = session.strips.map((s) => (isSource(s) ? sorted[next++]! : s.id));
    if (order.some((id, i) => session.strips[i]!.id !== id)) commands.push({ type: 'strips.order', order });
  }
  return commands;
}

/**
 * Renames strips by a pattern: `#` is a number (`##` with two digits), `*` the name that a strip has. Without a `#`, and
 * with more than one strip, a number is put behind.
 * @throws Refusal `range` for a pattern that gives no name
 */
export function renameStrips(
  session: Session,
  ids: readonly Id[],
  pattern: string,
  first = 1,
): readonly Command[] {
  if (pattern.trim() === '')
    throw new Refusal('range', 'Type a name first. # stands for a number, * for the old name.');
  const full = /[#*]/.test(pattern) || ids.length < 2 ? pattern : `${pattern} #`;
  return ids.flatMap((id, i) => {
    const strip = stripOf(session, id);
    const name = keepable(
      full
        .replace(/\*/g, () => strip.name)
        .replace(/#+/g, (run) => String(first + i).padStart(run.length, '0'))
        .trim(),
      200,
    );
    return name === strip.name ? [] : [{ type: 'strip.set', id, patch: { name } } as const];
  });
}

/** Strips of a family, a kind or a colour, or all that feed one of these. */
export type PickBy =
  | { readonly by: 'family' | 'colour'; readonly value: string }
  | { readonly by: 'kind'; readonly value: StripKind }
  | { readonly by: 'feeds'; readonly strips: readonly Id[] };

export function stripsBy(session: Session, pick: PickBy): readonly Id[] {
  const shown = session.strips.filter((s) => !s.hidden);
  if (pick.by === 'feeds') {
    const feeding = reach(session, pick.strips, 'upstream', (e) => e.kind !== 'key' && e.on);
    return shown.filter((s) => feeding.has(s.id)).map((s) => s.id);
  }
  return shown
    .filter((s) =>
      pick.by === 'colour' ? s.colour.toLowerCase() === pick.value.toLowerCase() : s[pick.by] === pick.value,
    )
    .map((s) => s.id);
}
