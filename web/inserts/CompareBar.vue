<script setup lang="ts">
import { levelText } from '@core/levels/decibels';
import { useCompare } from './compare';

/** Dry or wet, at one loudness: over the foot of the view while it lasts. */
const compare = useCompare();
</script>

<template>
  <div
    v-if="compare.on"
    class="compare flex-0-0 d-flex align-center ga-3 py-0 px-3 on-raised text text-no-wrap overflow-hidden"
    role="toolbar"
    aria-label="Dry and wet"
  >
    <b>{{ compare.name }}</b>
    <v-btn-toggle
      role="radiogroup"
      aria-label="What is heard"
      :model-value="compare.dry"
      @update:model-value="compare.toggle"
    >
      <v-btn :value="false" role="radio" :aria-checked="!compare.dry" :aria-pressed="undefined">Wet</v-btn>
      <v-btn :value="true" role="radio" :aria-checked="compare.dry" :aria-pressed="undefined">Dry</v-btn>
    </v-btn-toggle>
    <v-checkbox v-model="compare.matched" label="at one loudness" />
    <span v-if="compare.busy" class="soft">measuring…</span>
    <span v-else-if="compare.difference !== null" class="mono">
      wet is {{ levelText(compare.difference) }} LU{{
        compare.matched ? '; dry is played by as much louder or softer' : ''
      }}
    </span>
    <v-btn :disabled="compare.busy" @click="compare.measure">Measure here</v-btn>
    <span class="space" />
    <span class="soft">nothing is edited</span>
    <v-btn variant="outlined" @click="compare.end">End</v-btn>
  </div>
</template>

<style scoped>
.compare {
  height: 38px;
  border-top: 2px solid var(--caution);
}
.compare .v-input {
  flex: none;
}
</style>
