import { sheetOrder } from '@core/operations/strips';
import type { Session, Strip } from '@core/session/types';
import type { Grouping } from './settings';
import { say } from './texts';

/** A column of the Sheet: a strip, or a band of strips that is folded. */
export type Column =
  | { readonly id: string; readonly strip: Strip; readonly fold: null; readonly band: string }
  | { readonly id: string; readonly strip: null; readonly fold: readonly Strip[]; readonly band: string };

/** A band over neighbouring columns. */
export interface Band {
  readonly key: string;
  readonly label: string;
  readonly colour: string;
  readonly from: number;
  readonly count: number;
  readonly folded: boolean;
  readonly strips: readonly string[];
}

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
    if (by !== 'submix') return s.family || say('noFamily');
    const to = session.strips.find((x) => x.id === s.out.to);
    return to ? to.name || to.id : say('goesNowhere');
  };

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
 */
export function columnsOf(
  session: Session,
  by: Grouping,
  folded: ReadonlySet<string>,
): { readonly sources: readonly Column[]; readonly landing: readonly Column[] } {
  const order = sheetOrder(session);
  const label = labels(session, by);
  const plain = (s: Strip): Column => ({ id: s.id, strip: s, fold: null, band: label(s) });
  const sources: Column[] = [];
  for (const s of grouped(order.sources, by, label)) {
    const band = label(s);
    const last = sources.at(-1);
    if (!folded.has(band)) sources.push(plain(s));
    else if (last?.fold && last.band === band)
      sources[sources.length - 1] = { ...last, fold: [...last.fold, s] };
    else sources.push({ id: `fold:${band}:${s.id}`, strip: null, fold: [s], band });
  }
  return { sources, landing: order.landing.map(plain) };
}

export const stripsIn = (c: Column): readonly Strip[] => c.fold ?? [c.strip];

export function bandsOf(columns: readonly Column[]): readonly Band[] {
  const bands: {
    key: string;
    label: string;
    colour: string;
    from: number;
    count: number;
    folded: boolean;
    strips: string[];
  }[] = [];
  columns.forEach((c, i) => {
    const last = bands.at(-1);
    const strips = stripsIn(c);
    const ids = strips.map((s) => s.id);
    if (last && last.label === c.band && !last.folded && !c.fold) {
      last.count++;
      last.strips.push(...ids);
    } else
      bands.push({
        key: `${c.band} ${i}`,
        label: c.band,
        colour: strips[0]!.kind === 'source' ? strips[0]!.colour : '',
        from: i,
        count: 1,
        folded: c.fold !== null,
        strips: [...ids],
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
