<script setup lang="ts">
import { computed } from 'vue';
import { RINGS } from '@core/surface/profile/fields';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** An encoder of a stand-in: its ring of lights as a row of bars. Dragged and wheeled it turns, clicked it is pushed. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  label: string;
  text: string;
  /** A knob with ends: it goes further with each step, and cannot be pushed. */
  ends?: boolean;
}>();
const seen = computed(() => props.unit.of(props.id));
const BARS = 15;
const bars = computed(() => {
  const { value, style } = seen.value;
  if (value <= 0) return [];
  const at = Math.round(((value - 1) / 126) * (BARS - 1));
  const middle = (BARS - 1) / 2;
  const from = { left: 0, centre: Math.min(at, middle), dot: at, width: middle - at / 2 };
  const to = { left: at, centre: Math.max(at, middle), dot: at, width: middle + at / 2 };
  const name = RINGS[style] ?? 'left';
  return Array.from({ length: BARS }, (_, n) => n >= from[name] - 0.01 && n <= to[name] + 0.01);
});
const PIXELS = 4;
/** 127ths of its way that a knob with ends goes in a step. */
const FAR = 3;
const steps = (n: number) => (props.ends ? n * FAR : n);
const drag = useDrag({
  begin(e) {
    props.unit.touch(props.id, true);
    return { y: e.clientY };
  },
  move(e, { note }) {
    const by = Math.trunc((note.y - e.clientY) / PIXELS);
    note.y -= by * PIXELS;
    if (by) props.unit.turn(props.id, steps(by));
  },
  end({ moved }) {
    if (!moved) push();
    props.unit.touch(props.id, false);
  },
});
function push() {
  props.unit.press(props.id, true);
  props.unit.press(props.id, false);
}
const STEPS: Readonly<Record<string, number>> = {
  ArrowUp: 1,
  ArrowRight: 1,
  ArrowDown: -1,
  ArrowLeft: -1,
  PageUp: 10,
  PageDown: -10,
};
function turn(e: WheelEvent | KeyboardEvent) {
  const by = e instanceof WheelEvent ? -Math.sign(e.deltaY) : STEPS[e.key];
  const pushes = e instanceof KeyboardEvent && (e.key === 'Enter' || e.key === ' ');
  if (!by && !pushes) return;
  e.preventDefault();
  e.stopPropagation();
  if (pushes) push();
  else props.unit.turn(props.id, steps(by!));
}
</script>

<template>
  <div
    class="ring ns-drag position-absolute d-flex align-end bg-raised"
    :class="{ automated: seen.light > 0 }"
    role="slider"
    tabindex="0"
    :aria-label="label"
    :aria-valuenow="seen.value"
    aria-valuemin="0"
    aria-valuemax="127"
    :aria-valuetext="text"
    :title="`${label}: ${text}`"
    v-on="drag.on"
    @wheel="turn"
    @keydown="turn"
  >
    <i v-for="n in BARS" :key="n" :class="{ lit: bars[n - 1] }" />
    <b class="light position-absolute" :style="{ opacity: seen.light / 127 }" />
  </div>
</template>

<style scoped>
.ring {
  gap: 1px;
  padding: 3px 3px 2px;
}
.ring i {
  flex: 1;
  height: 40%;
  background: var(--rule);
}
.ring i.lit {
  background: var(--signal);
  height: 85%;
}
.light {
  top: 1px;
  right: 1px;
  width: 5px;
  height: 5px;
  background: var(--caution);
}
</style>
