<script setup lang="ts">
import { computed } from 'vue';
import { useAutomationGestures } from './useAutomationGestures';
import type { ControlRef } from '@core/automation/control';
import { useAutomation } from './automation';
import ModeMark from '@/ui/ModeMark.vue';

/** Says of a control that it is automated, and leads to its lane; nothing where it is not. */
const props = defineProps<{ control: ControlRef }>();
const automation = useAutomation();
const gestures = useAutomationGestures();
const mark = computed(() => automation.markOf(props.control));
</script>

<template>
  <button
    v-if="mark"
    class="plain lane-of"
    :title="`${mark.text} Click: show its lane.`"
    :aria-label="`${mark.text} Show its lane`"
    @click.prevent.stop="gestures.show([control.owner], control)"
  >
    <ModeMark :mode="mark.mode" :has="mark.has" :writes="mark.writes" :size="9" />
  </button>
</template>

<style scoped>
.lane-of {
  min-height: 24px;
  min-width: 24px;
  padding: 0 4px;
  line-height: 1;
  vertical-align: middle;
}
</style>
