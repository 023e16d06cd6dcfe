<script setup lang="ts">
import { computed } from 'vue';
import { useDrag } from '@/ui/drag';
import type { SimulatedUnit } from '../simulatedUnit';

/** A fader of a stand-in: moved by mouse, finger and keys. */
const props = defineProps<{
  unit: SimulatedUnit;
  id: string;
  /** Pixels of its whole height. */
  height: number;
  label: string;
  text: string;
  colour: string;
  /** Whether a VCA lies under it. */
  vca: boolean;
}>();
const seen = computed(() => props.unit.of(props.id));
/** Pixels of its cap. */
const CAP = 22;
const TOP = 16383;
const drag = useDrag({
  begin() {
    props.unit.touch(props.id, true);
    return { from: seen.value.value };
  },
  move: (e, { start, note }) =>
    props.unit.move(
      props.id,
      note.from + ((start.clientY - e.clientY) / (props.height - CAP)) * TOP * (e.shiftKey ? 0.1 : 1),
    ),
  end: () => props.unit.touch(props.id, false),
});

const STEPS: Readonly<Record<string, number>> = { ArrowUp: 1, ArrowDown: -1, PageUp: 8, PageDown: -8 };
let letGo: ReturnType<typeof setTimeout> | null = null;
function key(e: KeyboardEvent) {
  const step = STEPS[e.key];
  if (!step) return;
  e.preventDefault();
  e.stopPropagation();
  if (!seen.value.touched) props.unit.touch(props.id, true);
  props.unit.move(props.id, seen.value.value + step * (e.shiftKey ? 16 : 128));
  if (letGo) clearTimeout(letGo);
  letGo = setTimeout(() => props.unit.touch(props.id, false), 500);
}
</script>

<template>
  <div
    class="slot ns-drag position-absolute"
    role="slider"
    tabindex="0"
    aria-orientation="vertical"
    :aria-label="label"
    :aria-valuenow="seen.value"
    aria-valuemin="0"
    :aria-valuemax="TOP"
    :aria-valuetext="text"
    :title="`${label}: ${text}`"
    v-on="drag.on"
    @keydown="key"
  >
    <i class="groove position-absolute bg-well top-0 bottom-0" />
    <i
      class="cap position-absolute w-100"
      :class="{ touched: seen.touched, vca }"
      :style="{ top: `${(1 - seen.value / TOP) * (height - CAP)}px`, '--strip': colour }"
    />
  </div>
</template>

<style scoped>
.groove {
  left: calc(50% - 1px);
  width: 3px;
}
.cap {
  left: 0;
  height: 22px;
  background: linear-gradient(var(--raised) 0 10px, var(--strip) 10px 12px, var(--raised) 12px);
  border: 1px solid var(--ink-soft);
}
.cap.vca {
  border-style: double;
  border-width: 4px;
}
.cap.touched {
  border-color: var(--signal);
}
</style>
