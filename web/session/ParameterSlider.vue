<script setup lang="ts">
import { computed, ref, type VNode } from 'vue';
import type { ControlRef } from '@core/automation/control';
import type { Law } from '@core/processors/description';
import { onStep, travelAt, valueAtTravel } from '@core/processors/law';
import type { Command } from '@core/edits/commands';
import { useCommands } from '@/commands/commands';
import { useDrag } from '@/ui/drag';
import LaneMark from './automation/LaneMark.vue';
import { useAutomationEdits } from './automation/useAutomationEdits';
import { useSession } from './session';
import { say } from './texts';

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
  drag: string;
  /** What its edit is called in the history. */
  what: string;
  /** The edit that sets a value; null where silence was typed. */
  make: (value: number | null) => readonly Command[];
  /** The control that automation moves, where it can. */
  control?: ControlRef;
}>();
const session = useSession();
const commands = useCommands();
const settle = (value: number) =>
  session.settle(`${props.drag} ${props.what}`, props.what, props.make(value));
const commit = (value: number | null) => session.commit(props.what, props.make(value));

const clamp = (v: number) => onStep(props, v);
const travel = computed(() => travelAt(props, props.value));
const zero = computed(() => travelAt(props, props.default));

let now = 0;
const drag = useDrag({
  begin: (e) => ({ from: travel.value, width: (e.currentTarget as HTMLElement).clientWidth }),
  move(e, { start, note }) {
    const fine = e.shiftKey ? 0.1 : 1;
    now = clamp(valueAtTravel(props, note.from + ((e.clientX - start.clientX) / note.width) * fine));
    session.live(props.drag, props.make(now));
  },
  end: ({ moved }) => moved && session.land(props.drag, props.what, props.make(now)),
});
/** A value after a step: of the fifth part with Shift, along a logarithmic law by shares of the line. */
function stepped(way: number, fine: boolean) {
  return props.law === 'log' && !fine
    ? clamp(valueAtTravel(props, travel.value + way * 0.02))
    : clamp(props.value + way * props.step * (fine ? 1 : 5));
}
function key(e: KeyboardEvent) {
  const what = commands.keyIn('slider', e);
  if (what === 'more') settle(stepped(1, e.shiftKey));
  else if (what === 'less') settle(stepped(-1, e.shiftKey));
  else if (what === 'default') commit(props.default);
  else if (what === 'least') settle(props.min);
  else if (what === 'most') settle(props.max);
  else if (what === 'type') type();
  else return;
  e.preventDefault();
  e.stopPropagation();
}
const automation = useAutomationEdits();
function automate(e: MouseEvent) {
  if (!props.control) return;
  e.preventDefault();
  automation.openControl(props.control, { x: e.clientX, y: e.clientY });
}
const typing = ref<string | null>(null);
const wrong = ref(false);
function type() {
  typing.value = props.text;
  wrong.value = false;
}
function typed() {
  const value = props.read(typing.value ?? '');
  wrong.value = value === undefined || (value !== null && (value < props.min || value > props.max));
  if (wrong.value) return;
  typing.value = null;
  commit(value as number | null);
}
const select = ({ el }: VNode) => (el as HTMLElement).querySelector('input')?.select();
</script>

<template>
  <div class="parameter pair align-center ga-2 text">
    <span class="label soft" :title="label">{{ label }}<LaneMark v-if="control" :control="control" /></span>
    <div
      class="line position-relative"
      role="slider"
      tabindex="0"
      :aria-label="label"
      :aria-valuenow="value"
      :aria-valuemin="min"
      :aria-valuemax="max"
      :aria-valuetext="spoken ?? text"
      :title="say('dragShiftFineDoubleClick', { control: control ? say('rightClickAutomation') : '' })"
      v-on="drag.on"
      @dblclick="commit(props.default)"
      @keydown="key"
      @contextmenu="automate"
    >
      <i class="rail" /><i
        class="fill"
        :style="{ left: `${Math.min(zero, travel) * 100}%`, width: `${Math.abs(travel - zero) * 100}%` }"
      />
      <i class="mark position-absolute" :style="{ left: `${travel * 100}%` }" />
    </div>
    <v-text-field
      v-if="typing !== null"
      v-model="typing"
      class="mono"
      :error="wrong"
      :aria-label="say('labelValue', { label })"
      hide-details
      autofocus
      @vue:mounted="select"
      @keydown.enter.stop="typed"
      @keydown.esc.stop="typing = null"
      @keydown.stop
      @blur="typing = null"
    />
    <v-btn
      v-else
      class="value mono pa-0 small"
      :aria-label="say('labelTextTypeValue', { label, text })"
      tabindex="-1"
      @click="type"
      >{{ text }}</v-btn
    >
  </div>
</template>

<style scoped>
.parameter {
  grid-template-columns: 72px 1fr 68px;
  min-height: 26px;
}
.line {
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
  top: 5px;
  width: 4px;
  height: 14px;
  margin-left: -2px;
  background: var(--ink);
}
.value {
  justify-content: flex-end;
  height: 24px;
}
</style>
