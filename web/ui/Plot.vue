<script setup lang="ts">
import { BarChart, LineChart } from 'echarts/charts';
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { init, use, type ECharts } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue';
import { useElementSize } from '@vueuse/core';
import { useTheme } from 'vuetify';
import { valueAt, type PlotAxis, type PlotLine } from './plot';

use([LineChart, BarChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer]);

/** A chart that is looked at: lines or bars over two axes with their units, told to a screen reader as a table. */
const props = withDefaults(
  defineProps<{
    /** What it shows, in a sentence. */
    title: string;
    x: PlotAxis;
    y: PlotAxis;
    lines: readonly PlotLine[];
    height?: number;
    /** Values of x at which the table has rows; all points where it is left out. */
    rows?: readonly number[];
    /** Dashed lines across, at values of x. */
    marks?: readonly number[];
    small?: boolean;
  }>(),
  { height: 130, rows: undefined, marks: () => [], small: false },
);
const theme = useTheme();
const host = useTemplateRef<HTMLElement>('host');
const { width } = useElementSize(host);
let chart: ECharts | null = null;

const told = (axis: PlotAxis, v: number) =>
  `${axis.format ? axis.format(v) : v.toFixed(1)}${axis.unit ? ` ${axis.unit}` : ''}`;
/** The table's rows: x, and what every line has there. */
const table = computed(() => {
  const at = props.rows ?? props.lines[0]?.points.map(([x]) => x) ?? [];
  return at.map((x) => ({ x, values: props.lines.map((line) => valueAt(line, x)) }));
});

function paint() {
  if (!host.value || width.value < 2) return;
  chart ??= init(host.value, null, { renderer: 'svg' });
  chart.resize();
  const c = theme.current.value.colors as Record<string, string>;
  const style = getComputedStyle(host.value);
  const soft = { color: c['ink-soft'], fontSize: 11 };
  const axis = (a: PlotAxis) => ({
    type: a.kind ?? 'value',
    min: a.min,
    max: a.max,
    data: a.names,
    splitNumber: a.splits ?? 3,
    interval: a.interval,
    inverse: a.inverse,
    axisLabel: { ...soft, formatter: a.label, show: !props.small || a.shown !== false },
    splitLine: { lineStyle: { color: c.rule } },
    axisLine: { lineStyle: { color: c.rule } },
    axisTick: { show: false },
  });
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: style.fontFamily, color: c['ink-soft'] },
      grid: {
        left: props.y.room ?? 34,
        right: props.x.end ?? 8,
        top: 8,
        bottom: props.small && props.x.shown === false ? 6 : 20,
      },
      tooltip: {
        trigger: 'axis',
        confine: true,
        valueFormatter: (v: number) => told(props.y.kind === 'category' ? props.x : props.y, v),
        backgroundColor: c.raised,
        borderColor: c.rule,
        textStyle: { color: c.ink, fontSize: 12 },
        axisPointer: { lineStyle: { color: c['ink-soft'] } },
      },
      xAxis: axis(props.x),
      yAxis: axis(props.y),
      series: props.lines.map((line, i) => ({
        name: line.name,
        type: line.kind === 'bars' ? 'bar' : 'line',
        showSymbol: false,
        barMaxWidth: line.thick ?? 10,
        barMinHeight: 1,
        data: props.y.kind === 'category' ? line.points.map(([, v]) => v) : line.points,
        lineStyle: { width: line.thick ?? 1.5, type: line.dashed ? 'dashed' : 'solid' },
        areaStyle: line.area ? { opacity: 0.3 } : undefined,
        itemStyle: { color: c[line.colour ?? 'signal'] },
        ...(i === 0 && props.marks.length
          ? {
              markLine: {
                silent: true,
                symbol: 'none',
                label: { show: false },
                lineStyle: { color: c['ink-soft'], type: 'dashed' },
                data: props.marks.map((x) => ({ xAxis: x })),
              },
            }
          : {}),
      })),
    },
    true,
  );
}
onMounted(paint);
watch(
  () => [props.x, props.y, props.lines, props.marks, props.height, width.value, theme.name.value],
  paint,
  {
    flush: 'post',
  },
);
onBeforeUnmount(() => chart?.dispose());
/** Where a point of the axes lies in the plot, in pixels: for what is drawn over it. */
const place = (x: number, y: number) => chart?.convertToPixel({ xAxisIndex: 0, yAxisIndex: 0 }, [x, y]);
defineExpose({ place });
</script>

<template>
  <figure class="plot position-relative ma-0 min-w-0">
    <div ref="host" :style="{ height: `${height}px` }" role="img" :aria-label="title" />
    <slot />
    <table class="offscreen">
      <caption>
        {{
          title
        }}
      </caption>
      <thead>
        <tr>
          <th scope="col">{{ x.name }}</th>
          <th v-for="l in lines" :key="l.name" scope="col">{{ l.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in table" :key="i">
          <th scope="row">{{ x.names?.[i] ?? y.names?.[i] ?? told(x, r.x) }}</th>
          <td v-for="(v, l) in r.values" :key="l">
            {{ v === null ? '' : told(y.kind === 'category' ? x : y, v) }}
          </td>
        </tr>
      </tbody>
    </table>
  </figure>
</template>
