<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, onBeforeUnmount, ref } from 'vue';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** A fader of a touch desk: taken hold of anywhere on its way, so that a finger laid on it moves nothing. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  label: string;
  text: string;
  colour: string;
  vca: boolean;
}>();
const slot = ref<HTMLElement | null>(null);
const { height } = useElementSize(slot);
const seen = computed(() => props.unit.of(props.id));
const TOP = 16383;
/** Pixels of its cap: a target that a finger finds. */
const CAP = 52;
const way = computed(() => Math.max(1, height.value - CAP));
const drag = useDrag({
  begin() {
    props.unit.touch(props.id, true);
    return { from: seen.value.value };
  },
  move: (e, { start, note }) =>
    props.unit.move(props.id, note.from + ((start.clientY - e.clientY) / way.value) * TOP),
  end: () => props.unit.touch(props.id, false),
});
const STEPS: Readonly<Record<string, number>> = { ArrowUp: 1, ArrowDown: -1, PageUp: 8, PageDown: -8 };
let letGo: ReturnType<typeof setTimeout> | null = null;
function key(e: KeyboardEvent) {
  const step = STEPS[e.key];
  if (!step) return;
  e.preventDefault();
  if (!seen.value.touched) props.unit.touch(props.id, true);
  props.unit.move(props.id, seen.value.value + step * 128);
  if (letGo) clearTimeout(letGo);
  letGo = setTimeout(() => props.unit.touch(props.id, false), 500);
}
onBeforeUnmount(() => {
  if (letGo) clearTimeout(letGo);
  if (seen.value.touched) props.unit.touch(props.id, false);
});
const cap = computed(() => ({
  top: `${(1 - seen.value.value / TOP) * way.value}px`,
  height: `${CAP}px`,
  left: '2px',
  right: '2px',
  background: `linear-gradient(var(--raised) 0 24px, ${props.colour} 24px 28px, var(--raised) 28px)`,
  border: `${props.vca ? '4px double' : '1px solid'} ${seen.value.touched ? 'var(--signal)' : 'var(--ink-soft)'}`,
}));
</script>

<template>
  <div
    ref="slot"
    class="ns-drag position-relative flex-1-1-0 bg-well"
    style="min-height: 160px"
    role="slider"
    tabindex="0"
    aria-orientation="vertical"
    :aria-label="label"
    :aria-valuenow="seen.value"
    aria-valuemin="0"
    :aria-valuemax="TOP"
    :aria-valuetext="text"
    v-on="drag.on"
    @keydown="key"
  >
    <i class="position-absolute" :style="cap" />
  </div>
</template>
