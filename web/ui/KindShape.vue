<script setup lang="ts">
import type { StripKind } from '@core/session/types';

/** The shape that tells a strip's kind: flat, a funnel, a rounded loop, a double bar. */
defineProps<{ kind: StripKind | 'family' }>();
</script>

<template>
  <svg class="shape" viewBox="0 0 44 10" preserveAspectRatio="none" aria-hidden="true">
    <rect v-if="kind === 'source'" x="0" y="2" width="44" height="5" />
    <path v-else-if="kind === 'family'" d="M0 0h44v3h-44zM0 5h44v3h-44z" />
    <path v-else-if="kind === 'submix'" d="M0 1h44l-14 8h-16z" />
    <rect v-else-if="kind === 'return'" x="1" y="2" width="42" height="6" rx="3" class="loop" />
    <path v-else d="M0 1h44v3h-44zM0 6h44v3h-44z" />
  </svg>
</template>

<style scoped>
.shape {
  height: 9px;
  flex: none;
  fill: var(--family);
}
.loop {
  fill: none;
  stroke: var(--family);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
</style>
