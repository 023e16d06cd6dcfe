<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** A key of a touch desk: down while a finger is on it, as many at once as there are fingers. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  word: string;
  label: string;
  tone?: string;
  with?: string;
}>();
const seen = computed(() => props.unit.of(props.id));
/** Pushed together with another, which is let go of after it. */
let together: string | null = null;
function down() {
  if (props.with) props.unit.press((together = props.with), true);
  props.unit.press(props.id, true);
}
function up() {
  if (!seen.value.touched) return;
  props.unit.press(props.id, false);
  if (together) props.unit.press(together, false);
  together = null;
}
const drag = useDrag({
  begin() {
    down();
    return true;
  },
  move() {},
  end: up,
});
function keydown(e: KeyboardEvent) {
  if (e.key !== ' ' && e.key !== 'Enter') return;
  e.preventDefault();
  e.stopPropagation();
  if (!e.repeat) down();
}
onBeforeUnmount(up);
const style = computed(() => {
  const tone = `var(--${props.tone ?? 'signal'})`;
  const light = seen.value.light / 127;
  return {
    minWidth: '44px',
    height: '44px',
    touchAction: 'none',
    border: `1px solid color-mix(in srgb, ${tone} ${light * 100}%, var(--rule))`,
    background: `color-mix(in srgb, ${tone} ${light * 28}%, var(--raised))`,
    boxShadow: `inset 0 ${light * -3}px ${tone}`,
    outline: seen.value.touched ? '2px solid var(--ink)' : undefined,
    color: 'var(--ink)',
  };
});
</script>

<template>
  <button
    type="button"
    class="flex-1-1-0 pa-0 small"
    :style="style"
    :aria-label="label"
    :aria-pressed="seen.light > 0 || seen.touched"
    v-on="drag.on"
    @keydown="keydown"
    @keyup="up"
    @blur="up"
  >
    {{ word }}
  </button>
</template>
