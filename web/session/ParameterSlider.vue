<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ControlRef } from '@core/automation/control';
import type { Law } from '@core/processors/description';
import { onStep, travelAt, valueAtTravel } from '@core/processors/law';
import type { Command } from '@core/session/commands/types';
import { useAutomationGestures } from './automation/useAutomationGestures';
import { useSession } from './session';
import LaneMark from './automation/LaneMark.vue';

/**
 * A value of the document along a line: dragged, typed, stepped by keys, returned to its default by double-click or
 * Backspace. Drags are shown as they go and kept when they end, steps by key when they have rested.
 */
const props = defineProps<{
  label: string;
  value: number;
  min: number;
  max: number;
  default: number;
  step: number;
  law?: Law;
  text: string;
  /** How the value is spoken; its text where it is left out. */
  spoken?: string;
  read: (text: string) => number | null | undefined;
  /** The hand that moves it: one drag at a time. */
  gesture: string;
  /** What its edit is called in the history. */
  what: string;
  /** The edit that sets a value; null where silence was typed. */
  make: (value: number | null) => readonly Command[];
  /** The control that automation moves, where it can. */
  control?: ControlRef;
}>();
const session = useSession();
const live = (value: number) => session.live(props.gesture, props.make(value));
const land = (value: number) => session.land(props.gesture, props.what, props.make(value));
const settle = (value: number) =>
  session.settle(`${props.gesture} ${props.what}`, props.what, props.make(value));
const commit = (value: number | null) => session.commit(props.what, props.make(value));

const clamp = (v: number) => onStep(props, v);
const travel = computed(() => travelAt(props, props.value));
const zero = computed(() => travelAt(props, props.default));

const drag = ref<{ x: number; from: number; width: number; now: number; moved: boolean } | null>(null);
function down(e: PointerEvent) {
  if (e.button !== 0) return;
  const el = e.currentTarget as HTMLElement;
  el.setPointerCapture(e.pointerId);
  drag.value = { x: e.clientX, from: travel.value, width: el.clientWidth, now: props.value, moved: false };
}
function move(e: PointerEvent) {
  if (!drag.value || e.clientX === drag.value.x) return;
  const fine = e.shiftKey ? 0.1 : 1;
  drag.value.moved = true;
  drag.value.now = clamp(
    valueAtTravel(props, drag.value.from + ((e.clientX - drag.value.x) / drag.value.width) * fine),
  );
  live(drag.value.now);
}
function up() {
  if (drag.value?.moved) land(drag.value.now);
  drag.value = null;
}
function key(e: KeyboardEvent) {
  const fine = e.shiftKey;
  const stepped = (way: number) =>
    props.law === 'log' && !fine
      ? clamp(valueAtTravel(props, travel.value + way * 0.02))
      : clamp(props.value + way * props.step * (fine ? 1 : 5));
  if (e.key === 'ArrowRight' || e.key === 'ArrowUp' || e.key === '+' || e.key === '=') settle(stepped(1));
  else if (e.key === 'ArrowLeft' || e.key === 'ArrowDown' || e.key === '-') settle(stepped(-1));
  else if (e.key === 'Backspace') commit(props.default);
  else if (e.key === 'Home') settle(props.min);
  else if (e.key === 'End') settle(props.max);
  else if (e.key === 'Enter') typing.value = true;
  else return;
  e.preventDefault();
  e.stopPropagation();
}
const automation = useAutomationGestures();
function automate(e: MouseEvent) {
  if (!props.control) return;
  e.preventDefault();
  automation.openControl(props.control, { x: e.clientX, y: e.clientY });
}
const typing = ref(false);
const wrong = ref(false);
function typed(e: KeyboardEvent) {
  const value = props.read((e.target as HTMLInputElement).value);
  wrong.value = value === undefined || (value !== null && (value < props.min || value > props.max));
  if (wrong.value) return;
  typing.value = false;
  commit(value as number | null);
}
</script>

<template>
  <div class="parameter">
    <span class="label" :title="label">{{ label }}<LaneMark v-if="control" :control="control" /></span>
    <div
      class="line"
      role="slider"
      tabindex="0"
      :aria-label="label"
      :aria-valuenow="value"
      :aria-valuemin="min"
      :aria-valuemax="max"
      :aria-valuetext="spoken ?? text"
      :title="`Drag, Shift for fine. Double-click: default. Enter: type.${control ? ' Right-click: automation.' : ''}`"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
      @dblclick="commit(props.default)"
      @keydown="key"
      @contextmenu="automate"
    >
      <i class="rail" /><i
        class="fill"
        :style="{ left: `${Math.min(zero, travel) * 100}%`, width: `${Math.abs(travel - zero) * 100}%` }"
      />
      <i class="mark" :style="{ left: `${travel * 100}%` }" />
    </div>
    <input
      v-if="typing"
      class="field mono"
      :class="{ wrong }"
      :value="text"
      :aria-label="`${label}, value`"
      :aria-invalid="wrong"
      @vue:mounted="({ el }: { el: HTMLInputElement }) => el.select()"
      @keydown.enter.stop="typed"
      @keydown.esc.stop="typing = false"
      @keydown.stop
      @blur="typing = false"
    />
    <button
      v-else
      class="plain value mono"
      :aria-label="`${label}: ${text}, type a value`"
      tabindex="-1"
      @click="typing = true"
    >
      {{ text }}
    </button>
  </div>
</template>

<style scoped>
.parameter {
  display: grid;
  grid-template-columns: 72px 1fr 68px;
  align-items: center;
  gap: 8px;
  min-height: 26px;
  font-size: 13px;
}
.label {
  color: var(--ink-soft);
  padding: 2px 0;
  line-height: 1.15;
  overflow-wrap: anywhere;
}
.line {
  position: relative;
  height: 24px;
  cursor: ew-resize;
  touch-action: none;
}
.rail,
.fill {
  position: absolute;
  top: 11px;
  height: 2px;
  left: 0;
  right: 0;
  background: var(--rule);
}
.fill {
  background: var(--signal);
  right: auto;
}
.mark {
  position: absolute;
  top: 5px;
  width: 4px;
  height: 14px;
  margin-left: -2px;
  background: var(--ink);
}
.value {
  text-align: right;
  padding: 0;
  font-size: 12px;
  min-height: 24px;
}
.field {
  min-height: 24px;
  padding: 0 4px;
  text-align: right;
  font-size: 12px;
}
.wrong {
  border-color: var(--alert);
}
</style>
