<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** An encoder of a touch desk: a finger to the right or the left turns it, two taps push it. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  label: string;
  name: string;
  text: string;
  /** Where its value stands, 0 to 1. */
  travel: number;
}>();
const PIXELS = 3;
/** Milliseconds between two taps. */
const TAPS = 350;
let tapped = 0;
function push() {
  props.unit.press(props.id, true);
  props.unit.press(props.id, false);
}
const drag = useDrag({
  begin(e) {
    props.unit.touch(props.id, true);
    return { x: e.clientX };
  },
  move(e, { note }) {
    const steps = Math.trunc((e.clientX - note.x) / PIXELS);
    note.x += steps * PIXELS;
    if (steps) props.unit.turn(props.id, steps);
  },
  end({ moved, start }) {
    if (!moved && start.timeStamp - tapped < TAPS) push();
    tapped = moved ? 0 : start.timeStamp;
    props.unit.touch(props.id, false);
  },
  cancel: () => props.unit.touch(props.id, false),
});
const STEPS: Readonly<Record<string, number>> = {
  ArrowUp: 1,
  ArrowRight: 1,
  ArrowDown: -1,
  ArrowLeft: -1,
  PageUp: 10,
  PageDown: -10,
};
function key(e: KeyboardEvent) {
  const step = STEPS[e.key];
  if (!step && e.key !== 'Enter' && e.key !== ' ') return;
  e.preventDefault();
  if (step) props.unit.turn(props.id, step);
  else push();
}
onBeforeUnmount(() => props.unit.of(props.id).touched && props.unit.touch(props.id, false));
const bar = computed(() => ({
  left: 0,
  bottom: 0,
  height: '5px',
  width: `${props.travel * 100}%`,
  background: 'var(--signal)',
}));
</script>

<template>
  <div
    class="position-relative bg-raised text-center overflow-hidden small"
    style="height: 44px; touch-action: none; cursor: ew-resize"
    role="slider"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="Math.round(travel * 100)"
    aria-valuemin="0"
    aria-valuemax="100"
    :aria-valuetext="text"
    v-on="drag.on"
    @keydown="key"
  >
    <div class="soft text-truncate">{{ name }}</div>
    <div class="text-truncate">{{ text }}</div>
    <i class="position-absolute" :style="bar" />
  </div>
</template>
