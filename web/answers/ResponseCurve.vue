<script setup lang="ts">
import { computed } from 'vue';
import { logFrequencies, responseAt } from '@core/routing/response';
import type { Arrival } from '@core/routing/signal';
import { HERTZ, Plot, type PlotLine } from '@/ui/plot';
import { say } from './texts';

/** What copies of a signal that arrive at different times do to its spectrum, 20 Hz to 20 kHz. */
const props = defineProps<{ arrivals: readonly Arrival[]; sampleRate: number }>();
const FREQUENCIES = logFrequencies(361);
/** Third octaves are enough to be told. */
const ROWS = logFrequencies(31);
const FLOOR_DB = -60;

const lines = computed((): readonly PlotLine[] => {
  const mono = props.arrivals.every((a) => Math.abs(a.left - a.right) < 1e-9);
  return (mono ? (['left'] as const) : (['left', 'right'] as const)).map((side) => ({
    name: mono ? say('bothSides') : side === 'left' ? say('left') : say('right'),
    colour: side === 'left' ? 'signal' : 'send',
    dashed: side === 'right',
    points: FREQUENCIES.map((f) => [
      f,
      Math.max(FLOOR_DB, 20 * Math.log10(responseAt(props.arrivals, side, f, props.sampleRate) + 1e-9)),
    ]),
  }));
});
const Y = { name: say('levelTitle'), unit: 'dB' } as const;
</script>

<template>
  <Plot :title="say('frequencyResponseSumAllCopies')" :x="HERTZ" :y="Y" :lines="lines" :rows="ROWS" />
</template>
