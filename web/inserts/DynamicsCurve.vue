<script setup lang="ts">
import { useElementSize, useRafFn } from '@vueuse/core';
import { computed, ref } from 'vue';
import { processorOf } from '@core/processors/registry';
import type { Insert, Strip } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { fitCanvas } from '@/ui/zoneCanvas';
import type { InsertEdit } from './useInsertEdit';

/** Output over input of a level-dependent processor, the point at which it works now, and its reduction of late. */
const props = defineProps<{ strip: Strip; insert: Insert; edit: InsertEdit; height: number }>();
const transport = useTransport();
const host = ref<HTMLElement | null>(null);
const history = ref<HTMLCanvasElement | null>(null);
const dot = ref<SVGCircleElement | null>(null);
const now = ref<HTMLElement | null>(null);
const { width } = useElementSize(host);
const FLOOR = -72;
const side = computed(() => props.height);
const at = (db: number) => (1 - db / FLOOR) * side.value;
const down = (level: number) => processorOf(props.insert.type).reductionAt!(level, props.insert.params);
const curve = computed(() =>
  Array.from({ length: 73 }, (_, i) => {
    const level = FLOOR + i;
    return `${at(level).toFixed(1)},${(side.value - at(Math.max(FLOOR, level - down(level)))).toFixed(1)}`;
  }).join(' '),
);
const threshold = computed(() => {
  const p = props.edit.processor.value.parameters.find((x) => x.id === 'threshold');
  return p ? props.edit.value(p) : null;
});

/** Decibels from the top of the history to its foot. */
const DEPTH = 24;
const kept = new Float32Array(600);
let head = 0;
let shown = -1;
useRafFn(() => {
  const player = transport.player;
  const el = history.value;
  if (!el) return;
  const wide = Math.max(40, width.value - side.value - 8);
  const slot = player?.started ? player.dynamicsSlot(props.strip.id, props.insert.id) : -1;
  const reduction = slot < 0 ? 0 : player!.dynamics[slot]!;
  const heard = slot < 0 ? -160 : player!.dynamics[slot + 1]!;
  if (player?.rolling) {
    kept[head] = reduction;
    head = (head + 1) % kept.length;
  }
  const circle = dot.value;
  if (circle) {
    const x = Math.max(FLOOR, Math.min(0, heard));
    circle.setAttribute('cx', String(at(x)));
    circle.setAttribute('cy', String(side.value - at(Math.max(FLOOR, x - reduction))));
    circle.style.opacity = heard > FLOOR && player?.rolling ? '1' : '0';
  }
  const tenth = Math.round(reduction * 10);
  if (now.value && tenth !== shown) {
    shown = tenth;
    now.value.textContent = `−${reduction.toFixed(1)} dB`;
  }
  const g = fitCanvas(el, wide, props.height);
  const style = getComputedStyle(el);
  g.fillStyle = style.getPropertyValue('--rule');
  for (const db of [6, 12, 18]) g.fillRect(0, (db / DEPTH) * props.height, wide, 1);
  g.fillStyle = style.getPropertyValue('--caution');
  // The newest stands at the right.
  for (let px = 0; px < wide; px++) {
    const value = kept[(head - 1 - Math.floor(wide - 1 - px) + kept.length * 4) % kept.length]!;
    if (value > 0.05) g.fillRect(px, 0, 1, Math.min(1, value / DEPTH) * props.height);
  }
});
</script>

<template>
  <div ref="host" class="dynamics" :style="{ height: `${height}px` }">
    <svg
      :viewBox="`0 0 ${side} ${side}`"
      :width="side"
      :height="side"
      role="img"
      :aria-label="`Output over input level of the ${edit.processor.value.name}`"
    >
      <line class="same" x1="0" :y1="side" :x2="side" y2="0" />
      <line
        v-if="threshold !== null"
        class="threshold"
        :x1="at(threshold)"
        :x2="at(threshold)"
        y1="0"
        :y2="side"
      />
      <polyline class="curve" :class="{ off: !insert.on }" :points="curve" />
      <circle ref="dot" class="dot" r="5" />
    </svg>
    <div class="past">
      <canvas ref="history" role="img" aria-label="Gain reduction of the last seconds" />
      <span ref="now" class="now mono">−0.0 dB</span>
    </div>
  </div>
</template>

<style scoped>
.dynamics {
  display: flex;
  gap: 6px;
}
svg,
.past {
  background: var(--well);
  border: 1px solid var(--rule);
  flex: none;
}
.past {
  position: relative;
  flex: 1;
  min-width: 0;
  overflow: hidden;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.now {
  position: absolute;
  right: 4px;
  bottom: 2px;
  font-size: 11px;
}
.same {
  stroke: var(--rule);
}
.threshold {
  stroke: var(--ink-soft);
  stroke-dasharray: 3 3;
}
.curve {
  fill: none;
  stroke: var(--signal);
  stroke-width: 2;
}
.curve.off {
  stroke-dasharray: 4 3;
  opacity: 0.6;
}
.dot {
  fill: var(--ink);
  stroke: var(--well);
  stroke-width: 1.5;
  opacity: 0;
}
</style>
