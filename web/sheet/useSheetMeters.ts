import equal from 'fast-deep-equal';
import { computed, type ComputedRef, type Ref } from 'vue';
import { processorOf } from '@core/processors/registry';
import { useTransport } from '@/audio/transport';
import { stripsIn } from '@/session/columns';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { newWave, type MeterPlace, type Wave } from './paintMeters';
import { insertAt, type Row } from './rows/kind';
import { useMeterCanvas } from './useMeterCanvas';
import { useReductionCanvas, type Hairline } from './useReductionCanvas';
import { GAP, LABELS, type PlacedColumn, type SheetColumns } from './useSheetColumns';

/** The meters of the columns in view, and the hairlines of gain reduction on their inserts. */
export function useSheetMeters(
  meters: Ref<HTMLCanvasElement | null>,
  reductions: Ref<HTMLCanvasElement | null>,
  columns: SheetColumns,
  bodyWidth: Ref<number>,
  rows: ComputedRef<readonly Row[]>,
) {
  const session = useSession();
  const settings = useSettings();
  const transport = useTransport();
  const { sourcesShown, landingShown, sourcesLeft, landingLeft, sourcesWidth, landingWidth } = columns;
  const level = computed(() => rows.value.find((r) => r.kind === 'level')!);
  const total = computed(() => rows.value.at(-1)!.y + rows.value.at(-1)!.height);
  const zones = () => [
    { from: 0, width: sourcesWidth.value, sources: true },
    { from: sourcesWidth.value + GAP, width: landingWidth.value, sources: false },
  ];
  /** What a list of places has become; the list before where it says the same, so that nothing is painted anew for it. */
  const settled = <T>(now: readonly T[], before: readonly T[] | undefined) =>
    before && equal(before, now) ? before : now;
  /** What is drawn for the columns in view, each with its zone's left edge. */
  const inView = <T>(of: (p: PlacedColumn, left: number, source: boolean) => readonly T[]): readonly T[] => [
    ...sourcesShown.value.flatMap((p) => of(p, -sourcesLeft.value, true)),
    ...landingShown.value.flatMap((p) => of(p, sourcesWidth.value + GAP - landingLeft.value, false)),
  ];

  const waves = new Map<string, Wave>();
  const waveOf = (id: string) => {
    const known = waves.get(id) ?? newWave();
    waves.set(id, known);
    return known;
  };
  const places = computed<readonly MeterPlace[]>((before) => {
    const player = transport.player;
    if (!player) return [];
    const now = inView((p, left, source): MeterPlace[] => {
      const strips = stripsIn(p.column);
      const first = strips[0]!;
      const wave = p.column.strip && settings.waves.includes(`${session.id} ${first.id}`);
      return [
        {
          slot: player.slot(first.id),
          channels: first.channels,
          source,
          x: left + p.x,
          width: p.width,
          ...(wave ? { wave: waveOf(first.id) } : {}),
          ...(p.column.fold
            ? { total: strips.map((s) => ({ slot: player.slot(s.id), channels: s.channels })) }
            : {}),
        },
      ];
    });
    return settled(now, before);
  });
  useMeterCanvas(meters, {
    places,
    width: () => bodyWidth.value - LABELS,
    height: () => level.value.height,
    zones,
  });

  const lines = computed<readonly Hairline[]>((before) => {
    const player = transport.player;
    if (!player) return [];
    const slots = rows.value.filter((r) => r.kind === 'insert');
    const now = inView((p, left, source) => {
      const { strip } = p.column;
      if (!strip) return [];
      return slots.flatMap((row): Hairline[] => {
        const insert = insertAt(strip, row);
        if (!insert?.on || !processorOf(insert.type).levelDependent) return [];
        return [
          {
            slot: player.dynamicsSlot(strip.id, insert.id),
            x: left + p.x + 4,
            y: row.y + row.height - 4,
            width: p.width - 9,
            source,
          },
        ];
      });
    });
    return settled(now, before);
  });
  useReductionCanvas(reductions, {
    lines,
    width: () => bodyWidth.value - LABELS,
    height: () => total.value,
    zones,
  });
}
