<script setup lang="ts">
import { computed } from 'vue';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** A key of a stand-in: down while it is pressed. With Shift it stays down until it is clicked again, as a second hand would hold it. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  word: string;
  label: string;
  title: string;
  tone: string;
}>();
const seen = computed(() => props.unit.of(props.id));
let latched = false;
function down(latch: boolean) {
  if (latched) {
    latched = false;
    return props.unit.press(props.id, false);
  }
  latched = latch;
  props.unit.press(props.id, true);
}
const up = () => !latched && seen.value.touched && props.unit.press(props.id, false);
const drag = useDrag({
  begin(e) {
    down(e.shiftKey);
    return true;
  },
  move() {},
  end: () => void up(),
});
const isPush = (e: KeyboardEvent) => e.key === ' ' || e.key === 'Enter';
function keydown(e: KeyboardEvent) {
  if (!isPush(e)) return;
  e.preventDefault();
  e.stopPropagation();
  if (!e.repeat) down(e.shiftKey);
}
function keyup(e: KeyboardEvent) {
  if (!isPush(e)) return;
  e.preventDefault();
  up();
}
</script>

<template>
  <button
    type="button"
    class="key ns-drag position-absolute"
    :class="{ down: seen.touched }"
    :style="{ '--light': seen.light / 127, '--tone': `var(--${tone})` }"
    :aria-label="label"
    :aria-pressed="seen.light > 0 || seen.touched"
    :title="title"
    v-on="drag.on"
    @keydown="keydown"
    @keyup="keyup"
    @blur="up"
  >
    {{ word }}
  </button>
</template>

<style scoped>
.key {
  padding: 0;
  line-height: 1;
  overflow: hidden;
  color: var(--ink);
  background: color-mix(in srgb, var(--tone) calc(var(--light) * 28%), var(--raised));
  box-shadow: inset 0 calc(var(--light) * -3px) var(--tone);
  border: 1px solid color-mix(in srgb, var(--tone) calc(var(--light) * 100%), var(--rule));
}
.key.down {
  outline: 1px solid var(--ink);
}
</style>
