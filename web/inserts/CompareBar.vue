<script setup lang="ts">
import { levelText } from '@core/levels/decibels';
import { useCompare } from './compare';
import { say } from './texts';

/** Dry or wet, at one loudness: over the foot of the view while it lasts. */
const compare = useCompare();
</script>

<template>
  <div
    v-if="compare.on"
    class="compare flex-0-0 d-flex align-center ga-3 py-0 px-3 bg-raised text text-no-wrap overflow-hidden"
    role="toolbar"
    :aria-label="say('dryAndWet')"
  >
    <b>{{ compare.name }}</b>
    <v-btn-toggle
      role="radiogroup"
      :aria-label="say('whatIsHeard')"
      :model-value="compare.dry"
      @update:model-value="compare.toggle"
    >
      <v-btn :value="false" role="radio" :aria-checked="!compare.dry" :aria-pressed="undefined">{{
        say('wet')
      }}</v-btn>
      <v-btn :value="true" role="radio" :aria-checked="compare.dry" :aria-pressed="undefined">{{
        say('dry')
      }}</v-btn>
    </v-btn-toggle>
    <v-checkbox v-model="compare.matched" :label="say('atOneLoudness')" />
    <span v-if="compare.busy" class="soft">{{ say('measuring') }}</span>
    <span v-else-if="compare.difference !== null" class="mono">
      {{
        say('wetLevelLuMatched', {
          level: levelText(compare.difference),
          matched: compare.matched ? say('dryPlayedAsMuchLouder') : '',
        })
      }}
    </span>
    <v-btn :disabled="compare.busy" @click="compare.measure">{{ say('measureHere') }}</v-btn>
    <v-spacer />
    <span class="soft">{{ say('nothingIsEdited') }}</span>
    <v-btn variant="outlined" @click="compare.end">{{ say('end') }}</v-btn>
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
