<script setup lang="ts">
import { computed } from 'vue';
import { processorOf } from '@core/processors/registry';
import type { Insert } from '@core/session/types';
import { useSession } from '@/session/session';
import { Plot, type PlotAxis, type PlotLine } from '@/ui/plot';
import { say } from './texts';

/** What an impulse leaves behind: repeats as bars, a tail as a slope. */
const props = defineProps<{ insert: Insert; height: number }>();
const session = useSession();
const FOOT_DB = -60;
const points = computed(() => processorOf(props.insert.type).decayOf!(props.insert.params, session.shown!));
const repeats = computed(() => processorOf(props.insert.type).type === 'delay');
const first = computed(() => points.value[0]![0]);
const last = computed(() => points.value.at(-1)![0]);
const title = computed(() =>
  repeats.value
    ? say('pointsRepeatsWithin60Db', { points: points.value.length, first: first.value.toFixed(3) })
    : say('tailFalls60DbLast', { last: (last.value - first.value).toFixed(1) }),
);
const x = computed((): PlotAxis => ({
  name: say('time'),
  unit: 's',
  min: 0,
  max: Number((Math.max(0.25, last.value) * 1.06).toPrecision(3)),
  format: (v) => v.toFixed(2),
  label: (v: number) => `${Number(v.toFixed(2))} s`,
  splits: 4,
  end: 16,
}));
// Bars of level stand on the foot: how far above it they reach.
const y: PlotAxis = {
  name: say('level'),
  unit: 'dB',
  min: 0,
  max: -FOOT_DB,
  interval: 20,
  format: (v) => (v + FOOT_DB).toFixed(1),
  label: (v: number) => `${v + FOOT_DB}`.replace('-', '−'),
};
const lines = computed((): readonly PlotLine[] => [
  repeats.value
    ? {
        name: say('repeats'),
        kind: 'bars',
        thick: 3,
        points: points.value.map(([t, db]) => [t, db - FOOT_DB]),
      }
    : {
        name: say('tail'),
        area: true,
        points: [
          [first.value, -FOOT_DB],
          [last.value, 0],
        ],
      },
]);
</script>

<template>
  <Plot class="well bg-well border-thin" :title="title" :x="x" :y="y" :lines="lines" :height="height" />
</template>
