<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, ref } from 'vue';
import { processorOf } from '@core/processors/registry';
import type { Insert } from '@core/session/types';
import { useSession } from '@/session/session';

/** What an impulse leaves behind: repeats as bars, a tail as a slope. */
const props = defineProps<{ insert: Insert; height: number }>();
const session = useSession();
const host = ref<HTMLElement | null>(null);
const { width } = useElementSize(host);
const points = computed(() => processorOf(props.insert.type).decayOf!(props.insert.params, session.shown!));
const end = computed(() => Math.max(0.25, ...points.value.map(([t]) => t)) * 1.06);
const x = (t: number) => (t / end.value) * width.value;
const y = (db: number) => 6 + (-db / 60) * (props.height - 22);
const foot = computed(() => y(-60));
/** Room that the time at a tick takes. */
const TICK_PIXELS = 28;
const repeats = computed(() => processorOf(props.insert.type).type === 'delay');
const ticks = computed(() => {
  const step = [0.05, 0.1, 0.25, 0.5, 1, 2, 5].find((s) => end.value / s < 7) ?? 10;
  const all = Array.from({ length: Math.floor(end.value / step) + 1 }, (_, i) =>
    Number((i * step).toFixed(2)),
  );
  return all.filter((t) => x(t) + TICK_PIXELS < width.value);
});
const tail = computed(() => {
  const [[t0], [t1]] = [points.value[0]!, points.value.at(-1)!];
  return `${x(t0)},${y(0)} ${x(t1)},${foot.value} ${x(t0)},${foot.value}`;
});
</script>

<template>
  <div ref="host" class="decay" :style="{ height: `${height}px` }">
    <svg
      v-if="width"
      :viewBox="`0 0 ${width} ${height}`"
      :width="width"
      :height="height"
      role="img"
      :aria-label="
        repeats
          ? `${points.length} repeats within 60 dB, ${points[0]![0].toFixed(3)} seconds apart`
          : `A tail that falls by 60 dB in ${(points.at(-1)![0] - points[0]![0]).toFixed(1)} seconds`
      "
    >
      <line v-for="d in [-20, -40, -60]" :key="d" class="rule" x1="0" :x2="width" :y1="y(d)" :y2="y(d)" />
      <text v-for="t in ticks" :key="t" class="tick" :x="x(t) + 2" :y="height - 4">{{ t }} s</text>
      <template v-if="repeats">
        <rect
          v-for="[t, db] in points"
          :key="t"
          class="bar"
          :x="x(t) - 1.5"
          width="3"
          :y="y(db)"
          :height="foot - y(db)"
        />
      </template>
      <polygon v-else class="tail" :points="tail" />
    </svg>
  </div>
</template>

<style scoped>
.decay {
  background: var(--well);
  border: 1px solid var(--rule);
  overflow: hidden;
}
.rule {
  stroke: var(--rule);
}
.tick {
  fill: var(--ink-soft);
  font-size: 9px;
}
.bar {
  fill: var(--signal);
}
.tail {
  fill: color-mix(in srgb, var(--signal) 45%, transparent);
  stroke: var(--signal);
}
</style>
