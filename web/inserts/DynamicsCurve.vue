<script setup lang="ts">
import { useRafFn } from '@vueuse/core';
import { computed, shallowRef, useTemplateRef } from 'vue';
import { processorOf } from '@core/processors/registry';
import type { Insert, Strip } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { Plot, type PlotAxis, type PlotLine } from '@/ui/plot';
import type { InsertEdit } from './useInsertEdit';
import { say } from './texts';

/** Output over input of a level-dependent processor, the point at which it works now, and its reduction of late. */
const props = defineProps<{ strip: Strip; insert: Insert; edit: InsertEdit; height: number }>();
const transport = useTransport();
const plot = useTemplateRef<{ place(x: number, y: number): number[] | undefined }>('plot');
const dot = useTemplateRef<HTMLElement>('dot');
const now = useTemplateRef<HTMLElement>('now');
const FLOOR = -72;
const down = (level: number) => processorOf(props.insert.type).reductionAt!(level, props.insert.params);
const level = (name: string, unit: string): PlotAxis => ({
  name,
  unit,
  min: FLOOR,
  max: 0,
  interval: 24,
  room: 28,
  label: (v: number) => `${v}`.replace('-', '−'),
});
const IN = level(say('input'), 'dB');
const OUT = level(say('output'), 'dB');
const LEVELS = Array.from({ length: -FLOOR + 1 }, (_, i) => FLOOR + i);
const ROWS = LEVELS.filter((l) => l % 6 === 0);
const curve = computed((): readonly PlotLine[] => [
  {
    name: props.edit.processor.value.name,
    thick: 2,
    dashed: !props.insert.on,
    points: LEVELS.map((l) => [l, Math.max(FLOOR, l - down(l))]),
  },
  {
    name: say('asItCame'),
    colour: 'rule',
    thick: 1,
    points: [
      [FLOOR, FLOOR],
      [0, 0],
    ],
  },
]);
const threshold = computed(() => {
  const p = props.edit.processor.value.parameters.find((x) => x.id === 'threshold');
  return p ? [props.edit.value(p)] : [];
});

// — of late —
const SECONDS = 8;
/** Pictures of the past in a second: a line that creeps needs no more. */
const RATE = 15;
const PAST = Array.from({ length: SECONDS * RATE }, (_, i) => (i + 1) / RATE - SECONDS);
const kept = new Float32Array(PAST.length);
let head = 0;
let last = 0;
let shown = -1;
const TIME: PlotAxis = { name: say('time'), unit: 's', min: -SECONDS, max: 0, shown: false };
const REDUCTION: PlotAxis = {
  name: say('reduction'),
  unit: 'dB',
  min: 0,
  max: 24,
  interval: 6,
  inverse: true,
  room: 22,
};
const SECONDS_TOLD = Array.from({ length: SECONDS + 1 }, (_, i) => i - SECONDS);
const past = () => PAST.map((t, i): readonly [number, number] => [t, kept[(head + i) % kept.length]!]);
const history = shallowRef<readonly PlotLine[]>([]);
const show = () =>
  (history.value = [{ name: say('gainReduction'), colour: 'caution', area: true, thick: 1, points: past() }]);
show();

useRafFn(({ timestamp }) => {
  const player = transport.player;
  const slot = player?.started ? player.dynamicsSlot(props.strip.id, props.insert.id) : -1;
  const reduction = slot < 0 ? 0 : player!.dynamics[slot]!;
  const heard = slot < 0 ? -160 : player!.dynamics[slot + 1]!;
  const rolling = player?.rolling ?? false;
  if (dot.value) {
    const x = Math.max(FLOOR, Math.min(0, heard));
    const at = plot.value?.place(x, Math.max(FLOOR, x - reduction));
    dot.value.style.opacity = at && heard > FLOOR && rolling ? '1' : '0';
    if (at) dot.value.style.transform = `translate(${at[0]! - 5}px, ${at[1]! - 5}px)`;
  }
  const tenth = Math.round(reduction * 10);
  if (now.value && tenth !== shown) {
    shown = tenth;
    now.value.textContent = `−${reduction.toFixed(1)} dB`;
  }
  if (!rolling || timestamp - last < 1000 / RATE) return;
  last = timestamp;
  kept[head] = reduction;
  head = (head + 1) % kept.length;
  show();
});
</script>

<template>
  <div class="dynamics ga-1">
    <Plot
      ref="plot"
      class="well static bg-well border-thin"
      :title="say('outputOverInputLevelName', { name: edit.processor.value.name })"
      :x="IN"
      :y="OUT"
      :lines="curve"
      :marks="threshold"
      :rows="ROWS"
      :height="height"
    >
      <i ref="dot" class="dot position-absolute" />
    </Plot>
    <div class="past position-relative min-w-0">
      <Plot
        class="well bg-well border-thin"
        :title="say('gainReductionLastSeconds')"
        :x="TIME"
        :y="REDUCTION"
        :lines="history"
        :rows="SECONDS_TOLD"
        :height="height"
        small
      />
      <span ref="now" class="now mono position-absolute tiny">−0.0 dB</span>
    </div>
  </div>
</template>

<style scoped>
.dynamics {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
.now {
  right: 6px;
  bottom: 4px;
}
.dot {
  left: 0;
  top: 0;
  width: 10px;
  height: 10px;
  border-radius: 50%;
  border: 1.5px solid var(--well);
  background: var(--ink);
  opacity: 0;
  pointer-events: none;
}
</style>
