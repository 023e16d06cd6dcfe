<script setup lang="ts">
import { useStorage } from '@vueuse/core';

/** On a first visit, the three things to do first; shown until it is closed, once. */
const seen = useStorage('zonula.firstSteps', false);
const STEPS = [
  {
    title: 'Open a session',
    subtitle: 'Lantern Tide is there to try things on, half organized; or drop your own WAV files here.',
  },
  {
    title: 'Pick and gather',
    subtitle:
      'On the Sheet a column is a strip. Click names to pick, then G gathers them into a submix, R makes a return, V a VCA.',
  },
  {
    title: 'Play, and ask',
    subtitle:
      'Space plays. T traces the picked strip to the output, W tells what else changes when it moves; Ctrl+K finds all else.',
  },
];
</script>

<template>
  <v-alert
    v-if="!seen"
    closable
    title="Three things to do first"
    close-label="Close"
    @click:close="seen = true"
  >
    <v-timeline density="compact" side="end" truncate-line="both" line-color="rule">
      <v-timeline-item v-for="(s, i) in STEPS" :key="s.title" size="x-small" dot-color="signal" fill-dot>
        <b>{{ i + 1 }}. {{ s.title }}</b>
        <div class="soft">{{ s.subtitle }}</div>
      </v-timeline-item>
    </v-timeline>
  </v-alert>
</template>

<style scoped>
.v-alert {
  margin-top: 16px;
  font-size: 13px;
}
</style>
