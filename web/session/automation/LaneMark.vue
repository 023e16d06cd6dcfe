<script setup lang="ts">
import { computed } from 'vue';
import type { ControlRef } from '@core/automation/control';
import ModeMark from '@/ui/ModeMark.vue';
import { useAutomation } from './automation';
import { useAutomationEdits } from './useAutomationEdits';
import { say } from '../texts';

/** Says of a control that it is automated, and leads to its lane; nothing where it is not. */
const props = defineProps<{ control: ControlRef }>();
const automation = useAutomation();
const edits = useAutomationEdits();
const mark = computed(() => automation.markOf(props.control));
</script>

<template>
  <v-btn
    v-if="mark"
    class="lane-of"
    size="x-small"
    icon
    :title="say('markClickShowLane', { mark: mark.text })"
    :aria-label="say('markShowItsLane', { mark: mark.text })"
    @click.prevent.stop="edits.show([control.owner], control)"
  >
    <ModeMark :mode="mark.mode" :has="mark.has" :writes="mark.writes" :size="9" />
  </v-btn>
</template>

<style scoped>
.lane-of {
  height: 24px;
  width: 24px;
  min-width: 24px;
}
</style>
