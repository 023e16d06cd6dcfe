import { useDebounce, useWindowSize } from '@vueuse/core';
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue';
import { stripsIn } from '@/session/columns';
import { usePick } from '@/session/pick';
import { useSettings } from '@/session/settings';
import { stable } from '@/ui/stable';
import type { RowView } from './rows/rows';
import type { SheetColumns } from './useSheetColumns';

/** Milliseconds for which nothing has to scroll before rows follow what is in sight. */
const AT_REST = 400;

/** What rows there are: as they are asked for, and as there is room. */
export function useRowView(columns: SheetColumns, height: Ref<number>): ComputedRef<RowView> {
  const settings = useSettings();
  const pick = usePick();
  const { height: windowHeight } = useWindowSize();
  /** The most that the Sheet had in this window: a bar that comes at its foot does not change what rows there are. */
  const room = ref(0);
  watch(
    [height, windowHeight],
    ([now], [, before]) => {
      room.value = before !== windowHeight.value ? now : Math.max(room.value, now);
    },
    { immediate: true },
  );
  const inSight = stable(
    () =>
      [...columns.sourcesShown.value, ...columns.landingShown.value].flatMap((p) =>
        stripsIn(p.column).flatMap((s) => s.sends.map((x) => x.to)),
      ),
    (to) => [...new Set(to)].sort().join(' '),
  );
  const resting = useDebounce(inSight, AT_REST);
  return computed(() => ({
    folded: settings.foldedRows,
    step: columns.step.value,
    room: room.value,
    braided: settings.railRows === 'auto' ? null : settings.railRows === 'braid',
    hand: pick.rail,
    sends: settings.sendRows === 'auto' ? null : settings.sendRows,
    used: new Set(resting.value),
    nested: settings.grouping === 'nested',
  }));
}
