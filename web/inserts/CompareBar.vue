<script setup lang="ts">
import { levelText } from '@core/levels/decibels';
import { useCompare } from './compare';

/** Dry or wet, at one loudness: over the foot of the view while it lasts. */
const compare = useCompare();
</script>

<template>
  <div v-if="compare.on" class="compare" role="toolbar" aria-label="Dry and wet">
    <b>{{ compare.name }}</b>
    <div class="two" role="radiogroup" aria-label="What is heard">
      <button
        class="plain"
        role="radio"
        :aria-checked="!compare.dry"
        @click="compare.dry && compare.toggle()"
      >
        Wet
      </button>
      <button class="plain" role="radio" :aria-checked="compare.dry" @click="compare.dry || compare.toggle()">
        Dry
      </button>
    </div>
    <label><input v-model="compare.matched" type="checkbox" /> at one loudness</label>
    <span v-if="compare.busy" class="soft">measuring…</span>
    <span v-else-if="compare.difference !== null" class="mono">
      wet is {{ levelText(compare.difference) }} LU{{
        compare.matched ? '; dry is played by as much louder or softer' : ''
      }}
    </span>
    <button class="plain" :disabled="compare.busy" @click="compare.measure">Measure here</button>
    <span class="space" />
    <span class="soft">nothing is edited</span>
    <button class="plain boxed" @click="compare.end">End</button>
  </div>
</template>

<style scoped>
.compare {
  height: 38px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 14px;
  background: var(--raised);
  border-top: 2px solid var(--caution);
  font-size: 13px;
  white-space: nowrap;
  overflow: hidden;
}
.two {
  display: flex;
  border: 1px solid var(--rule);
}
.two [aria-checked='true'] {
  background: var(--caution);
  color: var(--ground);
  font-weight: 600;
}
label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.space {
  flex: 1;
}
</style>
