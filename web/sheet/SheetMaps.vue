<script setup lang="ts">
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
      @go="goToLanding"
    />
  </div>
</template>

<style scoped>
.maps {
  height: 14px;
}
</style>
