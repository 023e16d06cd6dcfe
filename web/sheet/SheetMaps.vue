<script setup lang="ts">
import { computed } from 'vue';
import { useMarks } from '@/session/marks';
import { usePick } from '@/session/pick';
import SessionMap from './SessionMap.vue';
import { GAP, LABELS, type SheetColumns } from './useSheetColumns';
import { say } from './texts';

/** Under the Sheet: thin maps of all columns, where the view stands among them; nothing where all are in view. */
const props = defineProps<{ columns: SheetColumns }>();
const {
  landingEl,
  sourcesLeft,
  landingLeft,
  sourceEdges,
  landingEdges,
  sourcesFull,
  landingFull,
  sourcesWidth,
  landingWidth,
  sourceBands,
  landingBands,
  goTo,
} = props.columns;
const marks = useMarks();
const pick = usePick();
/** Runs of columns under the same unit of the desk. */
function handsOn(columns: readonly { readonly id: string }[]) {
  const runs: { from: number; count: number; unit: string }[] = [];
  columns.forEach(({ id }, i) => {
    const unit = marks.units.get(id)?.join(' ');
    if (!unit) return;
    const last = runs.at(-1);
    if (last && last.unit === unit && last.from + last.count === i) last.count++;
    else runs.push({ from: i, count: 1, unit });
  });
  return runs;
}
const sourceHands = computed(() => handsOn(pick.columns.sources));
const landingHands = computed(() => handsOn(pick.columns.landing));
function goToLanding(share: number) {
  if (landingEl.value) landingEl.value.scrollLeft = share * landingFull.value - landingWidth.value / 2;
}
</script>

<template>
  <div
    v-if="sourcesFull > sourcesWidth || landingFull > landingWidth"
    class="maps position-relative flex-0-0 bg-sheet"
  >
    <SessionMap
      v-if="sourcesFull > sourcesWidth"
      :style="{ left: `${LABELS}px`, width: `${sourcesWidth}px` }"
      zone="sources"
      :label="say('whereViewStandsSession')"
      :bands="sourceBands"
      :edges="sourceEdges"
      :from="sourcesLeft / sourcesFull"
      :share="sourcesWidth / sourcesFull"
      :hands="sourceHands"
      @go="goTo"
    />
    <SessionMap
      v-if="landingFull > landingWidth"
      :style="{ left: `${LABELS + sourcesWidth + GAP}px`, width: `${landingWidth}px` }"
      zone="landing"
      :label="say('whereViewStandsAmongSubmixes')"
      :bands="landingBands"
      :edges="landingEdges"
      :from="landingLeft / landingFull"
      :share="landingWidth / landingFull"
      :hands="landingHands"
      @go="goToLanding"
    />
  </div>
</template>

<style scoped>
.maps {
  height: 14px;
}
</style>
