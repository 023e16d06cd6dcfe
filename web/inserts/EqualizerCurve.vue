<script setup lang="ts">
import { useElementSize, useRafFn } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { isOn, type ResponseBand } from '@core/processors/description';
import { parameterText } from '@core/processors/text';
import type { Insert, Strip } from '@core/session/types';
import { useSession } from '@/session/session';
import { DYNAMICS_MOVES } from '@/audio/shared';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import { useDrag } from '@/ui/drag';
import { fitCanvas } from '@/ui/zoneCanvas';
import { useBandAlone } from './bandAlone';
import { Spectrum } from './spectrum';
import type { InsertEdit } from './useInsertEdit';
import { say } from './texts';

/**
 * A processor of several bands as a curve over the live spectrum, changed by its points, by pointer and by keys: where bands move by
 * themselves, how far they go, and where they are now.
 */
const props = defineProps<{ strip: Strip; insert: Insert; edit: InsertEdit; height: number }>();
const band = defineModel<number>('band', { required: true });
const session = useSession();
const transport = useTransport();
const commands = useCommands();
const host = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const { width } = useElementSize(host);
const RANGE = 24;
const rate = computed(() => session.shown?.sampleRate ?? 48000);

const x = (hertz: number) => (width.value * Math.log(hertz / 20)) / Math.log(1000);
const y = (db: number) => props.height / 2 - (db / RANGE) * (props.height / 2 - 8);
const hertzAt = (px: number) => 20 * 1000 ** (px / Math.max(1, width.value));
const dbAt = (py: number) => ((props.height / 2 - py) / (props.height / 2 - 8)) * RANGE;

const FREQUENCIES = Array.from({ length: 181 }, (_, i) => 20 * 1000 ** (i / 180));
const line = (gain: (hertz: number) => number) =>
  FREQUENCIES.map((f) => `${x(f).toFixed(1)},${y(Math.max(-RANGE * 1.5, gain(f))).toFixed(1)}`).join(' ');
const processor = computed(() => props.edit.processor.value);
const bands = computed(() => processor.value.bands!);
const curve = computed(() => line((f) => processor.value.responseAt!(f, props.insert.params, rate.value)));
const own = computed(() =>
  line((f) => processor.value.bandResponseAt!(band.value, f, props.insert.params, rate.value)),
);
/** The curve while all bands have gone as far as they go. */
const farthest = computed(() => {
  const moved = processor.value.movedResponseAt;
  return moved ? line((f) => moved(f, props.insert.params, rate.value)) : '';
});
/** How far a band goes, in decibels; 0 where it stays. */
const rangeOf = (b: ResponseBand) =>
  b.range && b.gain && isOn(b.on, props.insert.params)
    ? clampTo(b.gain, props.edit.value(b.gain) + props.edit.value(b.range)) - props.edit.value(b.gain)
    : 0;
const points = computed(() =>
  bands.value.map((b, i) => {
    const hertz = props.edit.value(b.frequency);
    const gain = b.gain ? props.edit.value(b.gain) : -3;
    const text = [
      b.name,
      isOn(b.on, props.insert.params) ? '' : 'off',
      parameterText(b.frequency, hertz),
      b.gain ? parameterText(b.gain, gain) : parameterText(b.slope!, props.edit.value(b.slope!)),
      b.q ? `Q ${props.edit.value(b.q).toFixed(2)}` : '',
      b.range && rangeOf(b) !== 0 ? say('goesBy', { range: parameterText(b.range, rangeOf(b)) }) : '',
    ]
      .filter(Boolean)
      .join(', ');
    const far = y(gain + rangeOf(b)) - y(gain);
    return { b, i, x: x(hertz), y: y(gain), far, on: isOn(b.on, props.insert.params), text };
  }),
);
const GRID = [50, 100, 200, 500, 1000, 2000, 5000, 10000];

const rounded = (value: number, step: number) => Number((Math.round(value / step) * step).toFixed(6));
const clampTo = (p: { min: number; max: number }, v: number) => Math.max(p.min, Math.min(p.max, v));
/** A band moved to a frequency and a gain; moving switches it on. */
function moved(i: number, hertz: number, gain: number): Record<string, number> {
  const b = bands.value[i]!;
  const f = clampTo(b.frequency, hertz);
  return {
    [b.frequency.id]: rounded(f, f < 200 ? 1 : f < 2000 ? 5 : 10),
    ...(b.gain ? { [b.gain.id]: rounded(clampTo(b.gain, gain), 0.1) } : {}),
    ...(isOn(b.on, props.insert.params) ? {} : { [b.on.id]: 1 }),
  };
}

const {
  alone,
  begin: listen,
  end: unlisten,
} = useBandAlone(() => ({
  strip: props.strip.id,
  id: props.insert.id,
}));
let now: Record<string, number> | null = null;
const drag = useDrag({
  begin(e) {
    // The model says what it was until it has been drawn anew.
    const taken = Number((e.currentTarget as Element).getAttribute('data-band'));
    band.value = taken;
    now = null;
    if (e.shiftKey) listen(taken);
    return taken;
  },
  move(e, { note }) {
    const box = host.value!.getBoundingClientRect();
    now = moved(note, hertzAt(e.clientX - box.left), dbAt(e.clientY - box.top));
    props.edit.live(now);
  },
  end({ note }) {
    unlisten();
    if (now) props.edit.land(bands.value[note]!.name, now);
  },
});
/** How far a band goes is dragged by the ring beyond the end of its way. */
let range: Record<string, number> | null = null;
const rangeDrag = useDrag({
  begin(e) {
    e.stopPropagation();
    range = null;
    const b = bands.value[Number((e.currentTarget as Element).getAttribute('data-band'))]!;
    return { b, from: props.edit.value(b.range!) - dbAt(e.clientY) };
  },
  move(e, { note: { b, from } }) {
    range = { [b.range!.id]: rounded(clampTo(b.range!, from + dbAt(e.clientY)), 0.1) };
    props.edit.live(range);
  },
  end({ note: { b } }) {
    if (range) props.edit.land(say('rangeOf', { name: b.name }), range);
  },
});
function defaults(i: number) {
  const b = bands.value[i]!;
  props.edit.set(
    say('defaultsOf', { name: b.name }),
    Object.fromEntries(
      [b.on, b.frequency, b.gain, b.q, b.slope, b.range].flatMap((p) => (p ? [[p.id, p.default]] : [])),
    ),
  );
}
function width_(i: number, way: number) {
  const b = bands.value[i]!;
  if (b.q)
    props.edit.settle(`${b.name} Q`, {
      [b.q.id]: rounded(clampTo(b.q, props.edit.value(b.q) * 1.08 ** way), 0.01),
    });
  else
    props.edit.settle(say('slopeOf', { name: b.name }), {
      [b.slope!.id]: clampTo(b.slope!, props.edit.value(b.slope!) + way),
    });
}
function rangeBy(b: ResponseBand, by: number) {
  if (!b.range) return;
  props.edit.settle(say('rangeOf', { name: b.name }), {
    [b.range.id]: rounded(clampTo(b.range, props.edit.value(b.range) + by), 0.1),
  });
}
function key(i: number, e: KeyboardEvent) {
  const b = bands.value[i]!;
  const hertz = props.edit.value(b.frequency);
  const gain = b.gain ? props.edit.value(b.gain) : 0;
  const octave = e.shiftKey ? 1 / 48 : 1 / 12;
  const step = e.shiftKey ? 0.1 : 0.5;
  const what = commands.keyIn('curve', e);
  if (what === 'right') props.edit.settle(b.name, moved(i, hertz * 2 ** octave, gain));
  else if (what === 'left') props.edit.settle(b.name, moved(i, hertz / 2 ** octave, gain));
  else if (what === 'up') props.edit.settle(b.name, moved(i, hertz, gain + step));
  else if (what === 'down') props.edit.settle(b.name, moved(i, hertz, gain - step));
  else if (what === 'further') rangeBy(b, step);
  else if (what === 'deeper') rangeBy(b, -step);
  else if (what === 'narrow') width_(i, 1);
  else if (what === 'wide') width_(i, -1);
  else if (what === 'switch')
    props.edit.set(`${b.name} ${isOn(b.on, props.insert.params) ? 'off' : 'on'}`, {
      [b.on.id]: isOn(b.on, props.insert.params) ? 0 : 1,
    });
  else if (what === 'default') defaults(i);
  else if (what === 'alone') listen(i);
  else return;
  e.preventDefault();
  e.stopPropagation();
}

// — the spectra behind it: what goes in, and what comes out —

const spectra = { before: new Spectrum(), after: new Spectrum() };
watch(
  () => [transport.player, props.strip.id, props.insert.id] as const,
  ([player, strip, insert]) => player?.probe.look(spectra, { strip, insert }),
  { immediate: true },
);
onBeforeUnmount(() => transport.player?.probe.look(spectra, null));
let last = 0;
/** The outline of a spectrum, from the foot at the left to the foot at the right. */
function outline(g: CanvasRenderingContext2D, which: 'before' | 'after') {
  const spectrum = spectra[which];
  transport.player!.probe.read(which, spectrum.frames);
  spectrum.update(0.9);
  g.beginPath();
  g.moveTo(-2, props.height + 2);
  for (let px = 0; px <= width.value; px += 2) {
    const level = spectrum.between(hertzAt(px - 1), hertzAt(px + 1), rate.value);
    // Tilted by 3 dB an octave, so that an even mix lies level; from -90 to 0 dB.
    const tilted = level + 3 * Math.log2(hertzAt(px) / 1000);
    g.lineTo(px, props.height * Math.min(1, Math.max(0, -tilted / 90)));
  }
  g.lineTo(width.value + 2, props.height + 2);
}
/** The curve as it is now, where bands have moved. */
function drawNow(g: CanvasRenderingContext2D, colour: string) {
  const player = transport.player!;
  const moved = processor.value.movedResponseAt;
  if (!moved || !props.insert.on) return;
  const slot = player.dynamicsSlot(props.strip.id, props.insert.id) + DYNAMICS_MOVES;
  const moves = [...player.dynamics.subarray(slot, slot + bands.value.length)];
  if (moves.every((m) => Math.abs(m) < 0.05)) return;
  g.beginPath();
  for (const f of FREQUENCIES) g.lineTo(x(f), y(moved(f, props.insert.params, rate.value, moves)));
  g.strokeStyle = colour;
  g.lineWidth = 2;
  g.stroke();
  g.lineWidth = 1;
}
useRafFn(({ timestamp }) => {
  const el = canvas.value;
  if (!el || !width.value || timestamp - last < 30) return;
  last = timestamp;
  const g = fitCanvas(el, width.value, props.height);
  if (!transport.player?.started) return;
  const style = getComputedStyle(el);
  outline(g, 'after');
  g.fillStyle = style.getPropertyValue('--rule');
  g.fill();
  outline(g, 'before');
  g.setLineDash([2, 2]);
  g.strokeStyle = style.getPropertyValue('--send');
  g.stroke();
  g.setLineDash([]);
  drawNow(g, style.getPropertyValue('--caution'));
});
</script>

<template>
  <div
    ref="host"
    class="eq position-relative bg-well border-thin overflow-hidden"
    :style="{ height: `${height}px` }"
  >
    <canvas ref="canvas" class="fills" aria-hidden="true" />
    <svg v-if="width" class="fills" :viewBox="`0 0 ${width} ${height}`" :width="width" :height="height">
      <g stroke="var(--rule)" stroke-width="0.6" aria-hidden="true">
        <line v-for="f in GRID" :key="f" :x1="x(f)" :x2="x(f)" y1="0" :y2="height" />
        <line v-for="d in [-12, 0, 12]" :key="d" x1="0" :x2="width" :y1="y(d)" :y2="y(d)" />
      </g>
      <g font-size="9" fill="var(--ink-soft)" aria-hidden="true">
        <text v-for="f in [100, 1000, 10000]" :key="f" :x="x(f) + 3" :y="height - 4">
          {{ f >= 1000 ? `${f / 1000}k` : f }}
        </text>
        <text :x="width - 3" y="10" text-anchor="end" fill="var(--send)">{{ say('dashedBefore') }}</text>
        <text v-if="farthest" :x="width - 3" y="21" text-anchor="end" fill="var(--caution)">
          {{ say('nowAndFarthest') }}
        </text>
        <text v-for="d in [-12, 12]" :key="d" x="2" :y="y(d) - 2">{{ d > 0 ? '+' : '−' }}12</text>
      </g>
      <polyline fill="none" stroke="var(--ink-soft)" :points="own" />
      <polyline
        v-if="farthest && farthest !== curve"
        class="farthest"
        fill="none"
        stroke="var(--caution)"
        stroke-dasharray="1 3"
        :points="farthest"
      />
      <polyline
        fill="none"
        stroke="var(--signal)"
        stroke-width="2"
        :stroke-dasharray="insert.on ? undefined : '4 3'"
        :opacity="insert.on ? 1 : 0.6"
        :points="curve"
      />
      <g
        v-for="p in points"
        :key="p.b.id"
        class="point cursor-grab"
        tabindex="0"
        role="slider"
        :aria-label="p.b.name"
        :aria-valuenow="Math.round(edit.value(p.b.frequency))"
        :aria-valuemin="20"
        :aria-valuemax="20000"
        :aria-valuetext="p.text"
        :transform="`translate(${p.x} ${p.y})`"
        :data-band="p.i"
        v-on="drag.on"
        @dblclick="defaults(p.i)"
        @focus="band = p.i"
        @wheel.prevent="width_(p.i, $event.deltaY < 0 ? 1 : -1)"
        @keydown="key(p.i, $event)"
        @keyup="unlisten"
        @blur="unlisten"
      >
        <title>{{ say('pDragWheelQSlope', { p: p.text }) }}</title>
        <line v-if="p.far" y2="0" :y1="p.far" stroke="var(--caution)" stroke-width="1.5" />
        <g
          v-if="p.b.range"
          class="range"
          :transform="`translate(0 ${p.far + (p.far < 0 ? -13 : 13)})`"
          :data-band="p.i"
          v-on="rangeDrag.on"
          @dblclick.stop="edit.set(say('rangeOf', { name: p.b.name }), { [p.b.range.id]: 0 })"
        >
          <title>{{ say('dragHowFarItGoes', { p: p.text }) }}</title>
          <circle fill="transparent" r="12" />
          <circle fill="var(--sheet)" stroke="var(--caution)" stroke-width="1.5" r="4.5" />
        </g>
        <rect class="reach" fill="transparent" stroke-width="1.5" x="-12" y="-12" width="24" height="24" />
        <rect
          :fill="p.i === alone ? 'var(--caution)' : p.i === band ? 'var(--signal)' : 'var(--sheet)'"
          :stroke="p.on ? 'var(--signal)' : 'var(--ink-soft)'"
          stroke-width="1.5"
          :stroke-dasharray="p.on ? undefined : '2 2'"
          x="-6"
          y="-6"
          width="12"
          height="12"
          transform="rotate(45)"
        />
        <text
          class="pointer-events-none"
          font-size="9"
          y="3.5"
          text-anchor="middle"
          :fill="p.i === band ? 'var(--ground)' : 'var(--ink)'"
        >
          {{ p.i + 1 }}
        </text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.eq {
  touch-action: none;
  user-select: none;
}
.point {
  outline: none;
}
.point:focus-visible .reach {
  stroke: var(--signal);
}
</style>
