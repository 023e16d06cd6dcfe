<script setup lang="ts">
import { computed, ref } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP, levelAt, travelOf } from '@core/levels/faderLaw';
import { stepLevel } from '@core/session/gestures/strips';
import type { Vca } from '@core/session/types';
import ModeMark from '@/ui/ModeMark.vue';
import { useSession } from '@/session/session';

const props = defineProps<{ vca: Vca; writes: boolean }>();
const emit = defineEmits<{ menu: [event: MouseEvent] }>();
const session = useSession();
const gesture = computed(() => `vca ${props.vca.id}`);
const command = (faderDb: number | null) =>
  [{ type: 'vca.set', id: props.vca.id, patch: { faderDb } }] as const;
const label = computed(() => `level VCA ${props.vca.name}`);

const drag = ref<{ x: number; from: number; width: number } | null>(null);
function down(e: PointerEvent) {
  if (e.button !== 0) return;
  const el = e.currentTarget as HTMLElement;
  el.setPointerCapture(e.pointerId);
  drag.value = { x: e.clientX, from: travelOf(props.vca.faderDb), width: el.clientWidth };
}
let last: number | null | undefined;
function move(e: PointerEvent) {
  if (!drag.value) return;
  const fine = e.shiftKey ? 0.1 : 1;
  const travel = Math.max(
    0,
    Math.min(1, drag.value.from + ((e.clientX - drag.value.x) / drag.value.width) * fine),
  );
  const level = levelAt(travel);
  last = level === null ? null : Math.round(level * 10) / 10;
  session.live(gesture.value, command(last));
}
function up() {
  if (drag.value && last !== undefined) session.land(gesture.value, label.value, command(last));
  drag.value = null;
  last = undefined;
}
const set = (level: number | null) => session.commit(label.value, command(level));
/** Steps that follow each other are one edit. */
const stepTo = (level: number | null) =>
  session.settle(`${gesture.value} steps`, label.value, command(level));
function key(e: KeyboardEvent) {
  const step = e.shiftKey ? 0.1 : 0.5;
  if (e.key === 'ArrowRight' || e.key === 'ArrowUp' || e.key === '+')
    stepTo(round(stepLevel(props.vca.faderDb, step)));
  else if (e.key === 'ArrowLeft' || e.key === 'ArrowDown' || e.key === '-')
    stepTo(round(stepLevel(props.vca.faderDb, -step)));
  else if (e.key === 'Backspace') set(0);
  else if (e.key === 'Enter' || e.key === 'ContextMenu')
    emit('menu', new MouseEvent('contextmenu', box(e.currentTarget as HTMLElement)));
  else return;
  e.preventDefault();
  e.stopPropagation();
}
const round = (v: number | null) => (v === null ? null : Math.round(v * 100) / 100);
const box = (el: HTMLElement) => {
  const r = el.getBoundingClientRect();
  return { clientX: r.left + 20, clientY: r.bottom };
};
</script>

<template>
  <div
    class="vca"
    role="slider"
    tabindex="0"
    :aria-label="`VCA ${vca.name}`"
    :aria-valuenow="vca.faderDb ?? FADER_FLOOR"
    :aria-valuemin="FADER_FLOOR"
    :aria-valuemax="FADER_TOP"
    :aria-valuetext="levelSpoken(vca.faderDb)"
    :data-vca="vca.id"
    title="Drag: level. Double-click: 0 dB. Right-click: rename, mute, solo, remove."
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="up"
    @dblclick="set(0)"
    @keydown="key"
    @contextmenu.prevent="emit('menu', $event)"
  >
    <span class="name" :class="{ muted: vca.mute }">{{ vca.name || vca.id }}</span>
    <ModeMark
      v-if="writes || vca.automation !== 'read' || Object.keys(vca.lanes).length"
      :mode="vca.automation"
      :has="Object.keys(vca.lanes).length > 0"
      :writes="writes"
      class="mark-of-mode"
    />
    <span v-if="vca.mute" class="flag alert">M</span>
    <span v-if="vca.solo" class="flag caution">S</span>
    <span class="mono level">{{ levelText(vca.faderDb) }}</span>
    <i class="line" /><i class="fill" :style="{ width: `${travelOf(vca.faderDb) * 100}%` }" /><i
      class="mark"
      :style="{ left: `${travelOf(vca.faderDb) * 100}%` }"
    />
  </div>
</template>

<style scoped>
.vca {
  position: absolute;
  inset: 0 6px 0 10px;
  display: flex;
  gap: 4px;
  align-items: flex-start;
  font-size: 11px;
  line-height: 15px;
  cursor: ew-resize;
  touch-action: none;
}
.name {
  font-weight: 600;
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.mark-of-mode {
  margin-top: 2px;
}
.muted {
  text-decoration: line-through;
}
.flag.alert {
  color: var(--alert);
  font-weight: 600;
}
.flag.caution {
  color: var(--caution);
  font-weight: 600;
}
.level {
  color: var(--ink-soft);
}
.line,
.fill {
  position: absolute;
  left: 0;
  bottom: 4px;
  height: 3px;
  width: 100%;
  background: var(--rule);
}
.fill {
  background: var(--signal);
}
.mark {
  position: absolute;
  bottom: 1px;
  width: 3px;
  height: 9px;
  margin-left: -1px;
  background: var(--ink);
}
</style>
