<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, ref } from 'vue';
import { controlName, lanesCommand, refKey, spokenValue, type Placed } from '@core/automation/control';
import { clearSpan, movePoint, withLane, withoutPoint, withPoint } from '@core/automation/edit';
import { laneValue, pointsBefore, thinned } from '@core/automation/lane';
import { nameOf } from '@core/session/lookup';
import type { Lane } from '@core/session/types';
import { clockText } from '@core/session/time';
import { useActions } from '@/commands/actions';
import { useAutomation } from '@/session/automation/automation';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import ModeMark from '@/ui/ModeMark.vue';
import type { TimeSpan } from './timeSpan';

/** One control's lane over time: its line, its points, what a hand writes into it now. */
const props = defineProps<{
  placed: Placed;
  colour: string;
  span: TimeSpan;
  grid: readonly number[];
  height: number;
}>();
const emit = defineEmits<{ wheel: [event: WheelEvent, share: number] }>();
const session = useSession();
const transport = useTransport();
const automation = useAutomation();
const actions = useActions();
const notices = useNotices();

/** Room at the left and right ends, so that a point at the very start can be taken. */
const PAD = 8;
const TOP = 8;
const FOOT = 8;
/** Points are drawn as handles while there are no more of them in view than this. */
const MOST_HANDLES = 300;
/** Pixels within which a press takes a point. */
const NEAR = 8;

const plot = ref<SVGSVGElement | null>(null);
const { width } = useElementSize(plot);
const control = computed(() => props.placed.control);
const key = computed(() => refKey(props.placed.ref));
const writing = computed(() => automation.passes.has(key.value));
const lane = computed<Lane | null>(
  () => (writing.value ? automation.inHand(props.placed.ref) : null) ?? props.placed.lane,
);
const name = computed(() => controlName(session.shown!, props.placed.ref));
const owner = computed(() => nameOf(session.shown!, props.placed.ref.owner));
const what = computed(() => `${name.value.toLowerCase()} of ${owner.value}`);

const inner = computed(() => Math.max(1, width.value - 2 * PAD));
const xOf = (t: number) => PAD + ((t - props.span.start) / props.span.length) * inner.value;
const yOf = (v: number | null) => TOP + (1 - control.value.travelOf(v)) * (props.height - TOP - FOOT);
const timeAt = (x: number) => props.span.start + ((x - PAD) / inner.value) * props.span.length;
const travelAt = (y: number) => Math.max(0, Math.min(1, 1 - (y - TOP) / (props.height - TOP - FOOT)));

/** First and last point that are drawn: one beyond either edge. */
const range = computed(() => {
  if (!lane.value) return [0, 0] as const;
  const from = Math.max(0, pointsBefore(lane.value, props.span.start, 'before') - 1);
  const to = Math.min(lane.value.length, pointsBefore(lane.value, props.span.start + props.span.length) + 1);
  return [from, to] as const;
});
const path = computed(() => {
  const l = lane.value;
  const end = width.value;
  if (!l) {
    const y = yOf(props.placed.value);
    return `M0 ${y} H${end}`;
  }
  const [from, to] = range.value;
  let d = `M${Math.min(0, xOf(l[from]![0]))} ${yOf(l[from]![1])}`;
  let y = yOf(l[from]![1]);
  for (let i = from; i < to; i++) {
    const x = xOf(l[i]![0]);
    const next = yOf(l[i]![1]);
    d += control.value.stepped ? ` H${x} V${next}` : i === from ? ` H${x}` : ` L${x} ${next}`;
    y = next;
  }
  return `${d} M${xOf(l[to - 1]![0])} ${y} H${Math.max(end, xOf(l[to - 1]![0]))}`;
});
const handles = computed(() => {
  const l = props.placed.lane;
  if (!l || writing.value) return [];
  const [from, to] = range.value;
  if (to - from > MOST_HANDLES) return [];
  return l.slice(from, to).map(([t, v], i) => ({ index: from + i, t, v, x: xOf(t), y: yOf(v) }));
});
/** Values along the control's travel, from the top down. */
const scale = computed(() => {
  const shares =
    control.value.stepped && control.value.travelOf(1) === 1
      ? [1, 0]
      : props.height > 110
        ? [1, 0.75, 0.5, 0.25, 0]
        : [1, 0.5, 0];
  return shares.map((share) => {
    const value = control.value.valueAt(share);
    return { y: yOf(value), text: control.value.text(value).replace(/ dB$/, '') };
  });
});
const selected = computed(() => (automation.selected?.key === key.value ? automation.selected.point : -1));
const current = computed(() => {
  const value = lane.value ? laneValue(control.value, lane.value, session.playhead) : props.placed.value;
  return control.value.text(value);
});

// — edits —
const commands = (next: Lane | null) => [
  lanesCommand(props.placed.ref, withLane(props.placed.lanes, control.value.id, next)),
];
const gesture = computed(() => `lane ${key.value}`);
const commit = (label: string, next: Lane | null) => session.commit(`${label} ${what.value}`, commands(next));
const select = (point: number) => (automation.selected = { key: key.value, point });

function addAt(time: number, value: number | null) {
  const next = withPoint(props.placed.lane ?? [], time, value);
  if (commit('point of', next)) select(pointsBefore(next, time) - 1);
}
function remove(index: number) {
  const l = props.placed.lane;
  if (!l?.[index]) return;
  commit('remove a point of', withoutPoint(l, index));
  select(Math.min(index, l.length - 2));
}

interface Drag {
  readonly base: Lane;
  readonly index: number;
  readonly x: number;
  readonly y: number;
  readonly time: number;
  readonly travel: number;
  readonly fresh: boolean;
  next: Lane | null;
}
let drag: Drag | null = null;
function spot(e: PointerEvent | MouseEvent | WheelEvent) {
  const box = plot.value!.getBoundingClientRect();
  return { x: e.clientX - box.left, y: e.clientY - box.top };
}
function down(e: PointerEvent) {
  if (e.button !== 0) return;
  const { x, y } = spot(e);
  plot.value!.setPointerCapture(e.pointerId);
  const near = handles.value
    .map((h) => ({ h, d: Math.hypot(h.x - x, h.y - y) }))
    .filter(({ d }) => d <= NEAR)
    .sort((a, b) => a.d - b.d)[0]?.h;
  if (near && e.altKey) return remove(near.index);
  if (near) {
    select(near.index);
    drag = {
      base: props.placed.lane!,
      index: near.index,
      x,
      y,
      time: near.t,
      travel: control.value.travelOf(near.v),
      fresh: false,
      next: null,
    };
    return;
  }
  const time = Math.max(0, timeAt(x));
  const value = control.value.valueAt(travelAt(y));
  const base = withPoint(props.placed.lane ?? [], time, value);
  const index = pointsBefore(base, Math.round(time * 10000) / 10000) - 1;
  drag = { base, index, x, y, time, travel: travelAt(y), fresh: true, next: base };
  select(index);
  session.live(gesture.value, commands(base));
}
function move(e: PointerEvent) {
  if (!drag) return;
  const { x, y } = spot(e);
  if (!drag.fresh && !drag.next && Math.hypot(x - drag.x, y - drag.y) < 2) return;
  const fine = e.shiftKey ? 0.1 : 1;
  const travel = Math.max(0, Math.min(1, drag.travel - ((y - drag.y) * fine) / (props.height - TOP - FOOT)));
  // With Ctrl it goes up and down alone.
  const time = e.ctrlKey || e.metaKey ? drag.time : drag.time + timeAt(x) - timeAt(drag.x);
  drag.next = movePoint(drag.base, drag.index, time, control.value.valueAt(travel));
  session.live(gesture.value, commands(drag.next));
}
function up() {
  const ended = drag;
  drag = null;
  if (!ended?.next) return session.live(gesture.value, null);
  session.land(
    gesture.value,
    `${ended.fresh ? 'point of' : 'move a point of'} ${what.value}`,
    commands(ended.next),
  );
}
function cancel() {
  drag = null;
  session.live(gesture.value, null);
}
function wheel(e: WheelEvent) {
  emit('wheel', e, (spot(e).x - PAD) / inner.value);
}

// — keys —
const typing = ref<string | null>(null);
const field = ref<HTMLInputElement | null>(null);
async function type() {
  const point = props.placed.lane?.[selected.value];
  if (!point) return;
  typing.value = control.value.text(point[1]).replace('−', '-');
  await nextTick();
  field.value?.select();
}
function typed() {
  const text = typing.value;
  const point = props.placed.lane?.[selected.value];
  if (text === null || !point) return;
  const value = control.value.read(text);
  if (value === undefined) {
    notices.refused(
      `“${text}” is no value of ${name.value.toLowerCase()}. Type it as it is shown, such as ${control.value.text(point[1])}.`,
    );
    return;
  }
  typing.value = null;
  commit('set a point of', movePoint(props.placed.lane!, selected.value, point[0], value));
  plot.value?.focus();
}
function keys(e: KeyboardEvent) {
  const l = props.placed.lane;
  const at = selected.value;
  const point = l?.[at];
  const done = () => {
    e.preventDefault();
    e.stopPropagation();
  };
  if (e.ctrlKey || e.metaKey) return;
  if (e.key === 'Enter' || e.key === 'Insert') {
    if (point && e.key === 'Enter') void type();
    else addAt(transport.position, l ? laneValue(control.value, l, transport.position) : props.placed.value);
    return done();
  }
  if (!l) return;
  if (e.altKey && point && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
    const by = (e.key === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? 0.01 : 0.1);
    const next = movePoint(l, at, point[0] + by, point[1]);
    session.settle(gesture.value, `move a point of ${what.value}`, commands(next));
    return done();
  }
  if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') {
    select(Math.max(0, Math.min(l.length - 1, at < 0 ? 0 : at + (e.key === 'ArrowLeft' ? -1 : 1))));
    return done();
  }
  if (!point) return;
  if (e.key === 'ArrowUp' || e.key === 'ArrowDown' || e.key === '+' || e.key === '-') {
    const way = e.key === 'ArrowUp' || e.key === '+' ? 1 : -1;
    const step = control.value.stepped ? 1 : e.shiftKey ? 0.004 : 0.02;
    const travel = Math.max(0, Math.min(1, control.value.travelOf(point[1]) + way * step));
    const next = movePoint(l, at, point[0], control.value.valueAt(travel));
    session.settle(gesture.value, `move a point of ${what.value}`, commands(next));
    return done();
  }
  if (e.key === 'Backspace') {
    commit('default of a point of', movePoint(l, at, point[0], control.value.default));
    return done();
  }
  if (e.key === 'Delete') {
    remove(at);
    return done();
  }
  if (e.key === 'Escape') {
    automation.selected = null;
    return done();
  }
}
const spoken = computed(() => {
  const l = props.placed.lane;
  const of = `${owner.value}: ${name.value}`;
  if (!l) return `${of}, no lane. Enter adds a point at the playhead.`;
  const point = l[selected.value];
  return point
    ? `${of}, point ${selected.value + 1} of ${l.length}, ${point[0].toFixed(2)} seconds, ${spokenValue(control.value, point[1])}`
    : `${of}, ${l.length} points. Arrows go from point to point.`;
});

function openMenu(e: MouseEvent) {
  const l = props.placed.lane;
  const loop = transport.loop;
  actions.openMenu(
    `${owner.value}: ${name.value}`,
    [
      {
        label: 'Add a point at the playhead',
        keys: 'Insert',
        run: () =>
          addAt(transport.position, l ? laneValue(control.value, l, transport.position) : props.placed.value),
      },
      {
        label: loop ? 'Clear it inside the loop' : 'Clear it inside the loop (set one first, by L)',
        disabled: !l || !loop,
        run: () => commit('clear a part of', clearSpan(props.placed, loop!.start, loop!.end)),
      },
      {
        label: 'Leave out points that change little',
        disabled: !l || l.length < 3,
        run: () => {
          const next = thinned(control.value, l!, 0.01);
          if (next.length < l!.length) commit('thin', next);
          else notices.done('Every point of this lane changes something.');
        },
      },
      {
        label: 'Put the control here, without a lane',
        disabled: !l,
        run: () => commit('no automation of', null),
        danger: true,
      },
    ],
    e.currentTarget as Element,
  );
}
const playX = computed(() => Math.max(0, Math.min(width.value, xOf(transport.position))));
</script>

<template>
  <div
    class="lane"
    :class="{ writing, empty: !placed.lane }"
    :data-lane="key"
    :style="{ '--family': colour }"
  >
    <div class="head">
      <ModeMark :mode="placed.mode" :has="placed.lane !== null" :writes="writing" />
      <span class="name" :title="name">{{ name }}</span>
      <span class="mono value">{{ current }}</span>
      <button class="plain more" :aria-label="`What can be done with ${name} of ${owner}`" @click="openMenu">
        ⋯
      </button>
    </div>
    <div class="room">
      <svg
        ref="plot"
        class="plot"
        :height="height"
        tabindex="0"
        role="application"
        :aria-label="spoken"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="cancel"
        @wheel="wheel"
        @keydown="keys"
      >
        <line v-for="t in grid" :key="t" class="grid" :x1="xOf(t)" :x2="xOf(t)" y1="0" :y2="height" />
        <line class="usual" x1="0" :x2="width" :y1="yOf(control.default)" :y2="yOf(control.default)" />
        <path class="line" :class="{ none: !lane }" :d="path" />
        <text v-for="t in scale" :key="t.y" class="tick mono" x="12" :y="t.y + 3">{{ t.text }}</text>
        <rect
          v-for="h in handles"
          :key="h.index"
          class="point"
          :class="{ at: h.index === selected }"
          :x="h.x - (h.index === selected ? 4.5 : 3)"
          :y="h.y - (h.index === selected ? 4.5 : 3)"
          :width="h.index === selected ? 9 : 6"
          :height="h.index === selected ? 9 : 6"
        />
        <line class="playhead" :x1="playX" :x2="playX" y1="0" :y2="height" />
      </svg>
      <input
        v-if="typing !== null"
        ref="field"
        v-model="typing"
        class="field typing"
        aria-label="Value of the point"
        :style="{
          left: `${Math.max(0, Math.min(width - 90, xOf(placed.lane?.[selected]?.[0] ?? 0) - 45))}px`,
        }"
        @keydown.enter.stop.prevent="typed"
        @keydown.esc.stop="typing = null"
        @keydown.stop
        @blur="typing = null"
      />
      <span v-if="selected >= 0 && placed.lane?.[selected]" class="mono told">
        {{ clockText(placed.lane[selected]![0]) }} {{ control.text(placed.lane[selected]![1]) }}
      </span>
    </div>
  </div>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 208px 1fr;
  border-bottom: 1px solid var(--rule);
}
.head {
  display: grid;
  grid-template-columns: auto 1fr auto;
  grid-template-rows: 24px 24px;
  gap: 0 6px;
  align-items: center;
  align-content: center;
  padding: 0 6px 0 14px;
  font-size: 12px;
  border-left: 4px solid var(--family);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.value {
  grid-column: 2;
  grid-row: 2;
  color: var(--ink-soft);
}
.more {
  grid-column: 3;
  grid-row: 1;
  min-width: 26px;
}
.room {
  position: relative;
  min-width: 0;
  background: var(--sheet);
}
.plot {
  display: block;
  width: 100%;
  touch-action: none;
  cursor: crosshair;
}
.plot:focus-visible {
  outline: 2px solid var(--signal);
  outline-offset: -2px;
}
.grid {
  stroke: var(--rule);
  opacity: 0.6;
}
.usual {
  stroke: var(--ink-soft);
  stroke-dasharray: 2 4;
  opacity: 0.5;
}
.tick {
  font-size: 9px;
  fill: var(--ink-soft);
  stroke: var(--sheet);
  stroke-width: 3px;
  paint-order: stroke;
  pointer-events: none;
}
.line {
  fill: none;
  stroke: var(--signal);
  stroke-width: 1.8;
}
.line.none {
  stroke: var(--ink-soft);
  stroke-dasharray: 5 4;
}
.writing .line {
  stroke: var(--alert);
}
.point {
  fill: var(--sheet);
  stroke: var(--signal);
  stroke-width: 1.5;
}
.point.at {
  fill: var(--picked);
  stroke: var(--picked);
}
.playhead {
  stroke: var(--ink);
  opacity: 0.85;
}
.typing {
  position: absolute;
  top: 20px;
  width: 90px;
}
.told {
  position: absolute;
  right: 6px;
  top: 3px;
  font-size: 11px;
  color: var(--ink);
  background: var(--raised);
  padding: 0 4px;
  pointer-events: none;
}
</style>
