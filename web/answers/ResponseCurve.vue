<script setup lang="ts">
import { LineChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { logFrequencies, responseAt } from '@core/routing/response';
import type { Arrival } from '@core/routing/signal';
import { useSettings } from '@/session/settings';

use([LineChart, GridComponent, TooltipComponent, SVGRenderer]);

/** What copies of a signal that arrive at different times do to its spectrum, 20 Hz to 20 kHz. */
const props = defineProps<{ arrivals: readonly Arrival[]; sampleRate: number }>();
const settings = useSettings();
const host = ref<HTMLElement | null>(null);
let chart: ECharts | null = null;
const FREQUENCIES = logFrequencies(361);

function paint() {
  if (!host.value) return;
  chart ??= init(host.value, null, { renderer: 'svg' });
  const style = getComputedStyle(host.value);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const curve = (side: 'left' | 'right') =>
    FREQUENCIES.map((f) => [
      f,
      Math.max(-60, 20 * Math.log10(responseAt(props.arrivals, side, f, props.sampleRate) + 1e-9)),
    ]);
  const mono = props.arrivals.every((a) => Math.abs(a.left - a.right) < 1e-9);
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: style.fontFamily, color: colour('--ink-soft') },
      grid: { left: 34, right: 8, top: 8, bottom: 20 },
      tooltip: {
        trigger: 'axis',
        valueFormatter: (v: number) => `${v.toFixed(1)} dB`,
        backgroundColor: colour('--raised'),
        borderColor: colour('--rule'),
        textStyle: { color: colour('--ink'), fontSize: 12 },
        axisPointer: { lineStyle: { color: colour('--ink-soft') } },
      },
      xAxis: {
        type: 'log',
        min: 20,
        max: 20000,
        axisLabel: {
          fontSize: 11,
          color: colour('--ink-soft'),
          formatter: (v: number) => (v >= 1000 ? `${v / 1000}k` : `${v}`),
        },
        splitLine: { lineStyle: { color: colour('--rule') } },
        axisLine: { lineStyle: { color: colour('--rule') } },
      },
      yAxis: {
        type: 'value',
        axisLabel: { fontSize: 11, color: colour('--ink-soft') },
        splitLine: { lineStyle: { color: colour('--rule') } },
        splitNumber: 3,
      },
      series: (mono ? (['left'] as const) : (['left', 'right'] as const)).map((side) => ({
        name: mono ? 'Both sides' : side === 'left' ? 'Left' : 'Right',
        type: 'line',
        showSymbol: false,
        data: curve(side),
        lineStyle: { width: 1.5, type: side === 'left' ? 'solid' : 'dashed' },
        itemStyle: { color: colour(side === 'left' ? '--signal' : '--send') },
      })),
    },
    true,
  );
}
onMounted(paint);
watch(() => [props.arrivals, settings.theme], paint, { flush: 'post' });
onBeforeUnmount(() => chart?.dispose());
</script>

<template>
  <div ref="host" class="curve" role="img" aria-label="Frequency response of the sum of all copies" />
</template>

<style scoped>
.curve {
  width: 100%;
  height: 130px;
}
</style>
