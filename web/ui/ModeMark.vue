<script setup lang="ts">
import { computed } from 'vue';
import { isArmed } from '@core/session/mode';
import type { AutomationMode } from '@core/session/types';

/** What automation does: an empty ring is off, a triangle reads, a half-filled ring is armed, a full dot writes. */
const props = defineProps<{
  mode: AutomationMode;
  /** Whether there is a lane to follow. */
  has: boolean;
  writes: boolean;
  size?: number;
}>();
const STROKES = { off: 'var(--ink-soft)', read: 'var(--ink-soft)', armed: 'var(--caution)', writes: 'none' };
const shape = computed(() =>
  props.writes ? 'writes' : props.mode === 'off' ? 'off' : isArmed(props.mode) ? 'armed' : 'read',
);
</script>

<template>
  <svg
    class="mode-mark flex-0-0"
    fill="none"
    :stroke="STROKES[shape]"
    stroke-width="1.3"
    viewBox="0 0 10 10"
    :width="size ?? 10"
    :height="size ?? 10"
    aria-hidden="true"
  >
    <circle v-if="shape === 'off'" cx="5" cy="5" r="3.6" />
    <path
      v-else-if="shape === 'read'"
      :fill="has ? 'var(--signal)' : undefined"
      :stroke="has ? 'var(--signal)' : undefined"
      d="M2.2 1.2 L8.6 5 L2.2 8.8 Z"
    />
    <template v-else-if="shape === 'armed'">
      <circle cx="5" cy="5" r="3.6" />
      <path fill="var(--caution)" d="M5 1.4 A3.6 3.6 0 0 0 5 8.6 Z" />
    </template>
    <circle v-else class="full" fill="var(--alert)" cx="5" cy="5" r="4.2" />
  </svg>
</template>

<style scoped>
@media (prefers-reduced-motion: no-preference) {
  .full {
    animation: pulse 1s ease-in-out infinite alternate;
  }
}
@keyframes pulse {
  to {
    opacity: 0.45;
  }
}
</style>
