<script setup lang="ts">
import { computed } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP, levelAt, travelOf } from '@core/levels/faderLaw';
import { CELL_DEFAULT } from '@core/operations/cells';
import { stepLevel } from '@core/operations/strips';
import type { Vca } from '@core/session/types';
import { useCommands } from '@/commands/commands';
import { useDrag } from '@/ui/drag';
import ModeMark from '@/ui/ModeMark.vue';
import StripIcon from '@/ui/StripIcon.vue';
import { useSession } from '@/session/session';
import { say } from './texts';

const props = defineProps<{ vca: Vca; writes: boolean }>();
const emit = defineEmits<{ menu: [event: MouseEvent] }>();
const session = useSession();
const commands = useCommands();
const dragName = computed(() => `vca ${props.vca.id}`);
const command = (faderDb: number | null) =>
  [{ type: 'vca.set', id: props.vca.id, patch: { faderDb } }] as const;
const label = computed(() => say('levelVcaName', { name: props.vca.name }));

let last: number | null = null;
const drag = useDrag({
  begin: (e) => ({
    from: travelOf(props.vca.faderDb),
    width: (e.currentTarget as HTMLElement).clientWidth,
  }),
  move(e, { start, note }) {
    const by = ((e.clientX - start.clientX) / note.width) * (e.shiftKey ? 0.1 : 1);
    const level = levelAt(Math.max(0, Math.min(1, note.from + by)));
    last = level === null ? null : Math.round(level * 10) / 10;
    session.live(dragName.value, command(last));
  },
  end: ({ moved }) => moved && session.land(dragName.value, label.value, command(last)),
});
const set = (level: number | null) => session.commit(label.value, command(level));
/** Steps that follow each other are one edit. */
const stepTo = (level: number | null) =>
  session.settle(`${dragName.value} steps`, label.value, command(level));
function key(e: KeyboardEvent) {
  const step = e.shiftKey ? 0.1 : 0.5;
  const what = commands.keyIn('slider', e);
  if (what === 'more') stepTo(round(stepLevel(props.vca.faderDb, step)));
  else if (what === 'less') stepTo(round(stepLevel(props.vca.faderDb, -step)));
  else if (what === 'default') set(CELL_DEFAULT);
  else if (what === 'type' || commands.keyIn('sheet', e) === 'menu')
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
    :aria-label="say('vcaName', { name: vca.name })"
    :aria-valuenow="vca.faderDb ?? FADER_FLOOR"
    :aria-valuemin="FADER_FLOOR"
    :aria-valuemax="FADER_TOP"
    :aria-valuetext="levelSpoken(vca.faderDb)"
    :data-vca="vca.id"
    :title="say('dragLevelDoubleClick0')"
    v-on="drag.on"
    @dblclick="set(CELL_DEFAULT)"
    @keydown="key"
    @contextmenu.prevent="emit('menu', $event)"
  >
    <StripIcon :icon="vca.icon" :size="13" />
    <span class="name text-truncate font-weight-semibold flex-1-1-0" :class="{ muted: vca.mute }">{{
      vca.name || vca.id
    }}</span>
    <ModeMark
      v-if="writes || vca.automation !== 'read' || Object.keys(vca.lanes).length"
      :mode="vca.automation"
      :has="Object.keys(vca.lanes).length > 0"
      :writes="writes"
      class="mark-of-mode"
    />
    <span v-if="vca.mute" class="flag alert">M</span>
    <span v-if="vca.solo" class="flag caution">S</span>
    <span class="mono level soft">{{ levelText(vca.faderDb) }}</span>
    <i class="line" /><i class="fill" :style="{ width: `${travelOf(vca.faderDb) * 100}%` }" /><i
      class="mark position-absolute"
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
  bottom: 1px;
  width: 3px;
  height: 9px;
  margin-left: -1px;
  background: var(--ink);
}
</style>
