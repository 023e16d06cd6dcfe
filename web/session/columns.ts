import { sheetOrder } from '@core/operations/strips';
import type { Session, Strip } from '@core/session/types';
import type { Grouping } from './settings';
import { say } from './texts';

/** The band in which a column stands, and the one within it, where bands nest. */
interface Banded {
  readonly id: string;
  readonly band: string;
  readonly inner: string | null;
  /** Whether it is a submix that stands beside what feeds it. */
  readonly beside?: boolean;
}
/** A column of the Sheet: a strip, or a band of strips that is folded. */
export type Column =
  | (Banded & { readonly strip: Strip; readonly fold: null })
  | (Banded & { readonly strip: null; readonly fold: readonly Strip[] });

/** A band over neighbouring columns. */
export interface Band {
  readonly key: string;
  readonly label: string;
  readonly colour: string;
  readonly from: number;
  readonly count: number;
  readonly folded: boolean;
  readonly strips: readonly string[];
  /** What it is called where it is folded. */
  readonly fold: string;
  /** 1 within another. */
  readonly level: 0 | 1;
}
/** What a band within another is called where it is folded. */
const innerKey = (band: string, inner: string) => `${band} › ${inner}`;

const kindNames = () =>
  ({
    source: say('sources'),
    submix: say('submixes'),
    return: say('returns'),
    output: say('outputs'),
  }) as const;

/** What gives a strip's band its name: its kind, colour, family, or where it goes. */
const labels =
  (session: Session, by: Grouping) =>
  (s: Strip): string => {
    if (s.kind !== 'source' || by === 'kind') return kindNames()[s.kind];
    if (by === 'colour') return s.colour.toLowerCase();
    return by === 'submix' ? goalOf(session, s) : s.family || say('noFamily');
  };
/** What a strip feeds, by its name. */
function goalOf(session: Session, s: Strip): string {
  const to = session.strips.find((x) => x.id === s.out.to);
  return to ? to.name || to.id : say('goesNowhere');
}

/** Strips with those of one band together, bands in the order in which they appear. */
function grouped(strips: readonly Strip[], by: Grouping, label: (s: Strip) => string): readonly Strip[] {
  if (by === 'session') return strips;
  const groups = new Map<string, Strip[]>();
  for (const s of strips) {
    const group = groups.get(label(s));
    if (group) group.push(s);
    else groups.set(label(s), [s]);
  }
  return [...groups.values()].flat();
}

/**
 * Columns of the Sheet: sources in the session's order or grouped, folded bands as one column each; then the landing zone.
 * @param folded labels of folded bands
 * @param beside whether submixes stand behind what feeds them, among the sources; grouped by kind they do not
 */
export function columnsOf(
  session: Session,
  by: Grouping,
  folded: ReadonlySet<string>,
  beside = false,
): { readonly sources: readonly Column[]; readonly landing: readonly Column[] } {
  const order = sheetOrder(session);
  const label = labels(session, by);
  const innerOf = (s: Strip) => (by === 'nested' && s.kind === 'source' ? goalOf(session, s) : null);
  const plain = (s: Strip): Column => ({ id: s.id, strip: s, fold: null, band: label(s), inner: innerOf(s) });
  const sources: Column[] = [];
  const inOrder = grouped(order.sources, by, label);
  for (const s of by === 'nested' ? grouped(inOrder, by, (s) => innerKey(label(s), innerOf(s)!)) : inOrder) {
    const band = label(s);
    const inner = innerOf(s);
    // A band that is folded whole is one column; else each within it that is.
    const within = folded.has(band) ? null : inner;
    const key = within === null ? band : innerKey(band, within);
    const last = sources.at(-1);
    if (!folded.has(key)) sources.push(plain(s));
    else if (last?.fold && last.band === band && last.inner === within)
      sources[sources.length - 1] = { ...last, fold: [...last.fold, s] };
    else sources.push({ id: `fold:${key}:${s.id}`, strip: null, fold: [s], band, inner: within });
  }
  if (!beside || by === 'kind') return { sources, landing: order.landing.map(plain) };
  const submixes = order.landing.filter((s) => s.kind === 'submix');
  return {
    sources: withSubmixes(sources, submixes, plain),
    landing: order.landing.filter((s) => s.kind !== 'submix').map(plain),
  };
}

/** Puts each submix behind the last of what feeds it, into the band of that one; those that nothing shown feeds stand at the end. */
function withSubmixes(
  sources: readonly Column[],
  submixes: readonly Strip[],
  plain: (s: Strip) => Column,
): readonly Column[] {
  const columns = [...sources];
  const feeds = (c: Column, to: Strip) => stripsIn(c).some((s) => s.out.to === to.id);
  // One that collects others comes after these.
  let left = [...submixes];
  while (left.length) {
    const ready = left.filter((s) => !left.some((other) => other.out.to === s.id));
    for (const s of ready) {
      const at = columns.findLastIndex((c) => feeds(c, s));
      if (at < 0) columns.push(plain(s));
      else
        columns.splice(at + 1, 0, { id: s.id, strip: s, fold: null, ...bandAt(columns[at]!), beside: true });
    }
    left = left.filter((s) => !ready.includes(s));
  }
  return columns;
}
const bandAt = ({ band, inner }: Column) => ({ band, inner });

export const stripsIn = (c: Column): readonly Strip[] => c.fold ?? [c.strip];

type Growing = { -readonly [K in keyof Band]: Band[K] } & { strips: string[] };
/** @param level 1 gives the bands within others, where there are some */
export function bandsOf(columns: readonly Column[], level: 0 | 1 = 0): readonly Band[] {
  const bands: Growing[] = [];
  columns.forEach((c, i) => {
    // What is folded whole has nothing within it to name.
    if (level === 1 && c.inner === null) return;
    const last = bands.at(-1);
    const strips = stripsIn(c);
    // A submix that stands here is not of the band: what is done with the band is done with its sources.
    const ids = c.beside ? [] : strips.map((s) => s.id);
    const fold = level === 1 ? innerKey(c.band, c.inner!) : c.band;
    // A band whose inner ones are folded is not folded itself.
    const folded = c.fold !== null && (level === 1 || c.inner === null);
    if (last && last.fold === fold && last.from + last.count === i && !folded && (c.beside || !last.folded)) {
      last.count++;
      last.strips.push(...ids);
    } else
      bands.push({
        key: `${fold} ${i}`,
        label: level === 1 ? c.inner! : c.band,
        colour: strips[0]!.kind === 'source' ? strips[0]!.colour : '',
        from: i,
        count: 1,
        folded,
        strips: [...ids],
        fold,
        level,
      });
  });
  return bands;
}

/** Left edges of columns of these widths, and the right edge of the last; [0] where there are none. */
export function edgesOf(columns: readonly Column[], width: (c: Column) => number): readonly number[] {
  const edges = [0];
  let x = 0;
  // Whole pixels, so that lines are sharp also where columns are of five and a half.
  for (const c of columns) edges.push(Math.round((x += width(c))));
  return edges;
}

/** Number of the column in which a place lies; the last one's and more beyond it. @param edges as `edgesOf` gives them */
export function columnAt(edges: readonly number[], x: number): number {
  let low = 0;
  let high = edges.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edges[middle + 1]! <= x) low = middle + 1;
    else high = middle;
  }
  return low;
}
