import { computed, nextTick, ref, type Ref } from 'vue';
import type { Strip } from '@core/session/types';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { COLUMN_PIXELS, useSettings } from '@/session/settings';
import { bounded, fitting, scrolledAfter, stepOf } from './zoom';
import { bandsOf, columnAt, edgesOf, stripsIn, type Column } from '@/session/columns';
import { stable } from '@/ui/stable';

/** Pixels of the row labels at the left, and between the sources and the landing zone. */
export const LABELS = 104;
export const GAP = 5;
/** Columns drawn beyond the edge of the view. */
const SPARE = 2;
/** The landing zone takes no more of the Sheet than this, where nothing else was asked for. */
export const MOST_LANDING = 0.48;

/** A column in view, where it stands in its zone. */
export interface PlacedColumn {
  readonly column: Column;
  readonly x: number;
  readonly width: number;
  readonly number: number;
}

/** Where columns stand: the two zones that scroll by themselves, what of them is in view, and what lies under a point. */
export function useSheetColumns(body: Ref<HTMLElement | null>, bodyWidth: Ref<number>) {
  const session = useSession();
  const pick = usePick();
  const settings = useSettings();
  const sourcesEl = ref<HTMLElement | null>(null);
  const landingEl = ref<HTMLElement | null>(null);
  const sourcesLeft = ref(0);
  const landingLeft = ref(0);

  const column = computed(() => bounded(settings.zoom));
  const step = computed(() => stepOf(column.value));
  /** Pixels of a column: that of all, by as much more or less as its strip's own width says; from afar all are alike. */
  const widthOf = (c: Column) => {
    const own = c.strip && step.value === 'near' && settings.widths[`${session.id} ${c.id}`];
    return own
      ? Math.max(COLUMN_PIXELS.slim, (column.value * COLUMN_PIXELS[own]) / COLUMN_PIXELS.regular)
      : column.value;
  };
  const columns = computed(() => pick.columns);

  /** Left edges of the columns, and the right edge of the last. */
  const sourceEdges = stable(() => edgesOf(columns.value.sources, widthOf), String);
  const landingEdges = stable(() => edgesOf(columns.value.landing, widthOf), String);
  const sourcesFull = computed(() => sourceEdges.value.at(-1)!);
  const landingFull = computed(() => landingEdges.value.at(-1)!);
  /** What it needs, and no more than it is given; from afar all of it is wanted in sight. */
  const landingWidth = computed(() => {
    const given = step.value === 'far' ? Math.max(settings.landing ?? 0, MOST_LANDING) : settings.landing;
    const room = bodyWidth.value - LABELS;
    const most = Math.min(room - GAP - column.value, Math.floor(room * (given ?? MOST_LANDING)));
    return Math.min(landingFull.value, Math.max(column.value, most));
  });
  const sourcesWidth = computed(() => Math.max(0, bodyWidth.value - LABELS - GAP - landingWidth.value));

  const inView = (
    list: readonly Column[],
    edges: readonly number[],
    left: number,
    width: number,
    first: number,
  ): PlacedColumn[] => {
    const from = Math.max(0, columnAt(edges, left) - SPARE);
    const to = Math.min(list.length, columnAt(edges, left + width) + 1 + SPARE);
    return list.slice(from, to).map((c, i) => ({
      column: c,
      x: edges[from + i]!,
      width: edges[from + i + 1]! - edges[from + i]!,
      number: first + from + i + 1,
    }));
  };
  const sourcesShown = computed(() =>
    inView(columns.value.sources, sourceEdges.value, sourcesLeft.value, sourcesWidth.value, 0),
  );
  const landingShown = computed(() =>
    inView(
      columns.value.landing,
      landingEdges.value,
      landingLeft.value,
      landingWidth.value,
      columns.value.sources.length,
    ),
  );
  const sourceBands = stable(
    () => bandsOf(columns.value.sources),
    (b) => b.map((x) => `${x.key} ${x.count} ${x.colour} ${x.folded}`).join('|'),
  );
  /** Bands within others, where they nest. */
  const innerBands = stable(
    () => bandsOf(columns.value.sources, 1),
    (b) => b.map((x) => `${x.key} ${x.count} ${x.colour} ${x.folded}`).join('|'),
  );
  const landingBands = stable(
    () => bandsOf(columns.value.landing),
    (b) => b.map((x) => `${x.key} ${x.count}`).join('|'),
  );

  /** Strips that stand among the sources: these, and submixes that stand beside what feeds them. */
  const amongSources = computed(() => new Set(columns.value.sources.flatMap(stripsIn).map((s) => s.id)));
  const isSource = (id: string) => amongSources.value.has(id);
  function stripAt(e: { clientX: number }): string | null {
    const box = body.value!.getBoundingClientRect();
    const x = e.clientX - box.left - LABELS;
    if (x < 0) return null;
    const inSources = x < sourcesWidth.value;
    const list = inSources ? columns.value.sources : columns.value.landing;
    const at = inSources ? x + sourcesLeft.value : x - sourcesWidth.value - GAP + landingLeft.value;
    return at < 0
      ? null
      : (list[columnAt(inSources ? sourceEdges.value : landingEdges.value, at)]?.strip?.id ?? null);
  }
  /** Width of the column in which a strip stands. */
  function pixelsOf(id: string): number {
    const c = [...columns.value.sources, ...columns.value.landing].find((x) => x.id === id);
    return c ? widthOf(c) : column.value;
  }
  /** Left edge of a strip's column in the body; a position inside the column when one is given. */
  function columnX(id: string, from?: number): number {
    const inSources = isSource(id);
    const list = inSources ? columns.value.sources : columns.value.landing;
    const i = list.findIndex((c) => stripsIn(c).some((s) => s.id === id));
    const left = inSources
      ? LABELS + sourceEdges.value[i]! - sourcesLeft.value
      : LABELS + sourcesWidth.value + GAP + landingEdges.value[i]! - landingLeft.value;
    return from === undefined ? left : from - left;
  }

  /** The gap between columns that is nearest to the pointer, among strips of one kind. */
  function gapAt(e: PointerEvent, kind: Strip['kind']): { before: string | null } | null {
    const x = e.clientX - body.value!.getBoundingClientRect().left - LABELS;
    const inSources = columns.value.sources.some((c) => c.strip?.kind === kind) || kind === 'source';
    if (inSources !== x < sourcesWidth.value + GAP / 2) return null;
    const list = (inSources ? columns.value.sources : columns.value.landing).flatMap((c, i) =>
      stripsIn(c)[0]!.kind === kind ? [{ c, i }] : [],
    );
    const at = inSources ? x + sourcesLeft.value : x - sourcesWidth.value - GAP + landingLeft.value;
    const edges = inSources ? sourceEdges.value : landingEdges.value;
    // What is moved is shown where it would stand: the gap is before the next one that stays.
    const next = list.find(
      ({ c, i }) => (edges[i]! + edges[i + 1]!) / 2 > at && !pick.chosen.has(stripsIn(c)[0]!.id),
    );
    return { before: next ? stripsIn(next.c)[0]!.id : null };
  }
  /** Shows the sources from this share of their whole width on. */
  function goTo(share: number) {
    if (sourcesEl.value) sourcesEl.value.scrollLeft = share * sourcesFull.value - sourcesWidth.value / 2;
  }

  /**
   * Makes columns wider or narrower by a factor, and leaves what is under a point of the screen where it is.
   * @param at the point; the middle of the sources where it is left out
   */
  function zoomBy(factor: number, at?: { readonly clientX: number }) {
    const before = column.value;
    const after = bounded(before * factor);
    if (after === before || !body.value) return;
    const x =
      (at ? at.clientX - body.value.getBoundingClientRect().left : LABELS + sourcesWidth.value / 2) - LABELS;
    const inLanding = x > sourcesWidth.value + GAP;
    const [el, from] = inLanding
      ? [landingEl, x - sourcesWidth.value - GAP]
      : [sourcesEl, Math.max(0, Math.min(x, sourcesWidth.value))];
    const left = scrolledAfter(el.value?.scrollLeft ?? 0, from, after / before);
    settings.zoom = after;
    // What will be in view is drawn at once, and not after the scrolling has told of itself.
    (inLanding ? landingLeft : sourcesLeft).value = left;
    // Columns are as wide first, then scrolled there.
    void nextTick(() => {
      if (el.value) el.value.scrollLeft = left;
    });
  }
  /** The width by which the whole session is in sight. */
  const whole = computed(() =>
    fitting(columns.value.sources.length + columns.value.landing.length, bodyWidth.value - LABELS - GAP - 2),
  );

  /** Scrolls a column into view. */
  function reveal(id: string) {
    const inSources = isSource(id);
    const el = inSources ? sourcesEl.value : landingEl.value;
    const list = inSources ? columns.value.sources : columns.value.landing;
    const i = list.findIndex((c) => stripsIn(c).some((s) => s.id === id));
    const edges = inSources ? sourceEdges.value : landingEdges.value;
    const x = edges[i] ?? -1;
    if (!el || x < 0) return;
    const width = inSources ? sourcesWidth.value : landingWidth.value;
    if (x < el.scrollLeft) el.scrollLeft = x;
    else if (edges[i + 1]! > el.scrollLeft + width) el.scrollLeft = edges[i + 1]! - width;
  }

  /** The two parts of the Sheet that scroll by themselves. */
  const zones = computed(() => [
    {
      id: 'sources',
      keep: (el: HTMLElement | null) => (sourcesEl.value = el),
      left: LABELS,
      width: sourcesWidth.value,
      full: sourcesFull.value,
      edges: sourceEdges.value,
      bands: [...sourceBands.value, ...innerBands.value],
      shown: sourcesShown.value,
      scrolled: () => (sourcesLeft.value = sourcesEl.value!.scrollLeft),
    },
    {
      id: 'landing',
      keep: (el: HTMLElement | null) => (landingEl.value = el),
      left: LABELS + sourcesWidth.value + GAP,
      width: landingWidth.value,
      full: landingFull.value,
      edges: landingEdges.value,
      bands: landingBands.value,
      shown: landingShown.value,
      scrolled: () => (landingLeft.value = landingEl.value!.scrollLeft),
    },
  ]);

  return {
    zones,
    sourcesEl,
    landingEl,
    sourcesLeft,
    landingLeft,
    columns,
    sourceEdges,
    landingEdges,
    sourcesFull,
    landingFull,
    sourcesWidth,
    landingWidth,
    sourcesShown,
    landingShown,
    sourceBands,
    innerBands,
    landingBands,
    isSource,
    stripAt,
    pixelsOf,
    columnX,
    gapAt,
    goTo,
    reveal,
    step,
    zoomBy,
    whole,
  };
}
export type SheetColumns = ReturnType<typeof useSheetColumns>;
