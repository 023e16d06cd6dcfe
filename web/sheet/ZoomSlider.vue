<script setup lang="ts">
import { computed } from 'vue';
import { useSettings } from '@/session/settings';
import { useSheetView } from './sheetView';
import { bounded, travelOfWidth, widthAtTravel } from './zoom';
import { say } from './texts';

/** How near the Sheet is looked at, as a slider: every part of its way is the same factor. */
const settings = useSettings();
const view = useSheetView();
const travel = computed({
  get: () => travelOfWidth(bounded(settings.zoom)),
  set: (t: number) => view.zoomTo(widthAtTravel(t)),
});
</script>

<template>
  <v-slider
    v-model="travel"
    :min="0"
    :max="1"
    :step="0.01"
    :aria-label="say('zoom')"
    :title="say('zoom')"
    density="compact"
    hide-details
    thumb-size="12"
    track-size="2"
    @pointerdown.stop
    @keydown.stop
  />
</template>
