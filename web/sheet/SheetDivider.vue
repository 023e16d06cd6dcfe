<script setup lang="ts">
import { computed } from 'vue';
import { useSettings } from '@/session/settings';
import { useDrag } from '@/ui/drag';
import { GAP, LABELS, MOST_LANDING, type SheetColumns } from './useSheetColumns';
import { say } from './texts';

/** Between the sources and the landing zone: how much of the Sheet the latter may take, by hand; two clicks leave it to what it needs. */
const props = defineProps<{ columns: SheetColumns }>();
const settings = useSettings();
const { landingWidth, sourcesWidth } = props.columns;
const room = computed(() => Math.max(1, sourcesWidth.value + landingWidth.value));
/** A step of the keys, as a share. */
const STEP = 0.04;
const ask = (share: number) => (settings.landing = Math.max(0.05, Math.min(0.9, share)));
const drag = useDrag({
  begin: () => landingWidth.value,
  move: (e, { start, note }) => void ask((note + start.clientX - e.clientX) / room.value),
  end() {},
  cancel: ({ note }) => void ask(note / room.value),
});
const give = () => (settings.landing = null);
function key(e: KeyboardEvent) {
  const now = landingWidth.value / room.value;
  if (e.key === 'ArrowLeft') ask(now + STEP);
  else if (e.key === 'ArrowRight') ask(now - STEP);
  else if (e.key === 'Backspace') give();
  else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <div
    class="divider position-absolute top-0 bottom-0"
    role="separator"
    aria-orientation="vertical"
    tabindex="0"
    :aria-label="say('widthOfLanding')"
    :title="say('widthOfLandingHow')"
    :aria-valuenow="Math.round((settings.landing ?? MOST_LANDING) * 100)"
    aria-valuemin="5"
    aria-valuemax="90"
    :style="{
      ...{ left: `${LABELS + sourcesWidth - 1}px`, width: `${GAP + 2}px` },
      ...{ zIndex: 3, cursor: 'col-resize', touchAction: 'none' },
    }"
    v-on="drag.on"
    @dblclick.stop="give"
    @keydown="key"
  />
</template>

<style scoped>
.divider:hover,
.divider:focus-visible {
  background: var(--signal);
}
</style>
