<script setup lang="ts">
import { computed } from 'vue';
import { FAMILIES } from '@core/naming/lexicon';
import type { Band } from '@/session/columns';
import { useSettings } from '@/session/settings';
import type { Row } from './rows/kind';
import { say } from './texts';

/** The bands over the caps: a click picks what stands under one, its corner folds it. */
const props = defineProps<{ bands: readonly Band[]; edges: readonly number[]; row: Row; folds: boolean }>();
/** Pixels of a band: those within others stand under them. */
const height = computed(() => props.row.height / (props.bands.some((b) => b.level === 1) ? 2 : 1));
const emit = defineEmits<{ pick: [band: Band, event: MouseEvent]; fold: [band: Band] }>();
const settings = useSettings();
const colourOf = (b: Band) =>
  FAMILIES.find((f) => f.name === b.label)?.colour ?? (b.colour || 'var(--ink-soft)');
</script>

<template>
  <div
    v-for="b in bands"
    :key="b.key"
    class="band-label text-truncate position-absolute text-left py-0 px-1 tiny cursor-pointer"
    :style="{
      left: `${edges[b.from]}px`,
      width: `${edges[b.from + b.count]! - edges[b.from]! - 1}px`,
      top: `${row.y + b.level * height}px`,
      height: `${height}px`,
      '--family': colourOf(b),
    }"
    :title="say('pickB', { b: b.label })"
    role="presentation"
    @click="emit('pick', b, $event)"
  >
    <span
      v-if="folds"
      class="fold pt-0 pe-1 pb-0 ps-0 cursor-pointer"
      :data-fold="b.fold"
      :title="say('foldedBKeyZOne', { folded: b.folded ? say('open') : say('fold'), b: b.label })"
      @mousedown.prevent
      @click.stop="emit('fold', b)"
      >{{ b.folded ? '▸' : '▾' }}</span><span
      v-if="settings.grouping === 'colour' && folds"
      class="swatch"
    /><template v-else>{{ b.label }}</template>
  </div>
</template>

<style scoped>
.band-label {
  z-index: 1;
  line-height: 15px;
  border: 0;
  border-top: 2px solid var(--family);
  background: color-mix(in srgb, var(--family) 16%, var(--sheet));
  color: var(--ink);
}
.fold {
  display: inline-block;
  min-width: 14px;
  line-height: 14px;
}
.swatch {
  display: inline-block;
  width: 22px;
  height: 8px;
  background: var(--family);
}
</style>
