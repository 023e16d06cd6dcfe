<script setup lang="ts">
import { useStorage } from '@vueuse/core';
import { say } from './texts';

/** On a first visit, the three things to do first; shown until it is closed, once. */
const seen = useStorage('zonula.firstSteps', false);
const STEPS = [
  {
    title: say('openASession'),
    subtitle: say('lanternTideThereTryThings'),
  },
  {
    title: say('pickAndGather'),
    subtitle: say('sheetColumnStripClickNames'),
  },
  {
    title: say('playAndAsk'),
    subtitle: say('spacePlaysTTracesPicked'),
  },
];
</script>

<template>
  <v-alert
    v-if="!seen"
    closable
    :title="say('threeThingsDoFirst')"
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
