<script setup lang="ts">
import { mdiDotsHorizontal } from '@mdi/js';
import { useElementSize } from '@vueuse/core';
import { computed, ref } from 'vue';
import { controlName, refKey } from '@core/automation/control';
import { spokenValue } from '@core/session/controls';
import { clearSpan } from '@core/automation/edit';
import { laneValue, thinned } from '@core/automation/lane';
import { nameOf } from '@core/session/lookup';
import { clockText } from '@core/session/time';
import type { Lane } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { useAutomation } from '@/session/automation/automation';
import { useSession } from '@/session/session';
import { useMenu } from '@/ui/menu';
import ModeMark from '@/ui/ModeMark.vue';
import { useNotices } from '@/ui/notices';
import { PAD, useLaneShape, type LaneProps } from './laneShape';
import { useLaneHands } from './useLaneHands';
import { say } from './texts';

/** One control's lane over time: its line, its points, what a hand writes into it now. */
const props = defineProps<LaneProps>();
const emit = defineEmits<{ wheel: [event: WheelEvent, share: number] }>();
const session = useSession();
const transport = useTransport();
const automation = useAutomation();
const menu = useMenu();
const notices = useNotices();

const plot = ref<SVGSVGElement | null>(null);
const { width } = useElementSize(plot);
const key = computed(() => refKey(props.placed.ref));
const writing = computed(() => automation.passes.has(key.value));
const lane = computed<Lane | null>(
  () => (writing.value ? automation.inHand(props.placed.ref) : null) ?? props.placed.lane,
);
const name = computed(() => controlName(session.shown!, props.placed.ref));
const owner = computed(() => nameOf(session.shown!, props.placed.ref.owner));
const what = computed(() => say('nameOfOwner', { name: name.value.toLowerCase(), owner: owner.value }));

const shape = useLaneShape(props, width, lane, writing);
const { control, inner, xOf, yOf, path, handles, scale } = shape;
const hands = useLaneHands(props, plot, shape, name, what);
const { selected, typing, drag, keys, typed } = hands;
const current = computed(() => {
  const value = lane.value ? laneValue(control.value, lane.value, session.playhead) : props.placed.value;
  return control.value.text(value);
});
function wheel(e: WheelEvent) {
  emit('wheel', e, (hands.spot(e).x - PAD) / inner.value);
}
const spoken = computed(() => {
  const l = props.placed.lane;
  const of = `${owner.value}: ${name.value}`;
  if (!l) return say('noLaneEnterAddsPoint', { of });
  const point = l[selected.value];
  return point
    ? say('pointSelectedNamesPointSeconds', {
        of,
        selected: selected.value + 1,
        names: l.length,
        point: point[0].toFixed(2),
        spokenValue: spokenValue(control.value, point[1]),
      })
    : say('namesPointsArrowsGoFrom', { of, names: l.length });
});

function openMenu(e: MouseEvent) {
  const l = props.placed.lane;
  const loop = transport.loop;
  menu.open(
    `${owner.value}: ${name.value}`,
    [
      {
        label: say('addPointPlayhead'),
        keys: 'Insert',
        run: hands.addHere,
      },
      {
        label: loop ? say('clearInsideLoop') : say('clearInsideLoopSetOne'),
        disabled: !l || !loop,
        run: () => hands.commit(say('clearAPartOf'), clearSpan(props.placed, loop!.start, loop!.end)),
      },
      {
        label: say('leaveOutPointsChangeLittle'),
        disabled: !l || l.length < 3,
        run: () => {
          const next = thinned(control.value, l!, 0.01);
          if (next.length < l!.length) hands.commit(say('thin'), next);
          else notices.done(say('everyPointLaneChangesSomething'));
        },
      },
      {
        label: say('putControlHereWithoutLane'),
        disabled: !l,
        run: () => hands.commit(say('noAutomationOf'), null),
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
    class="lane border-b"
    :class="{ writing, empty: !placed.lane }"
    :data-lane="key"
    :style="{ '--family': colour }"
  >
    <div class="head align-center pt-0 pe-1 pb-0 ps-3 small">
      <ModeMark :mode="placed.mode" :has="placed.lane !== null" :writes="writing" />
      <span class="name text-truncate" :title="name">{{ name }}</span>
      <span class="mono value soft">{{ current }}</span>
      <v-btn
        class="more"
        :icon="mdiDotsHorizontal"
        :aria-label="say('canDoneNameOwner', { name, owner })"
        @click="openMenu"
      />
    </div>
    <div class="room position-relative min-w-0 bg-sheet">
      <svg
        ref="plot"
        class="plot within d-block w-100"
        :height="height"
        tabindex="0"
        role="application"
        :aria-label="spoken"
        v-on="drag.on"
        @wheel="wheel"
        @keydown="keys"
      >
        <line
          v-for="t in grid"
          :key="t"
          stroke="var(--rule)"
          opacity="0.6"
          :x1="xOf(t)"
          :x2="xOf(t)"
          y1="0"
          :y2="height"
        />
        <line
          stroke="var(--ink-soft)"
          stroke-dasharray="2 4"
          opacity="0.5"
          x1="0"
          :x2="width"
          :y1="yOf(control.default)"
          :y2="yOf(control.default)"
        />
        <path
          fill="none"
          :stroke="writing ? 'var(--alert)' : lane ? 'var(--signal)' : 'var(--ink-soft)'"
          stroke-width="1.8"
          :stroke-dasharray="lane ? undefined : '5 4'"
          :d="path"
        />
        <text v-for="t in scale" :key="t.y" class="tick mono" x="12" :y="t.y + 3">{{ t.text }}</text>
        <rect
          v-for="h in handles"
          :key="h.index"
          class="point"
          :fill="h.index === selected ? 'var(--picked)' : 'var(--sheet)'"
          :stroke="h.index === selected ? 'var(--picked)' : 'var(--signal)'"
          stroke-width="1.5"
          :x="h.x - (h.index === selected ? 4.5 : 3)"
          :y="h.y - (h.index === selected ? 4.5 : 3)"
          :width="h.index === selected ? 9 : 6"
          :height="h.index === selected ? 9 : 6"
        />
        <line stroke="var(--ink)" opacity="0.85" :x1="playX" :x2="playX" y1="0" :y2="height" />
      </svg>
      <input
        v-if="typing !== null"
        ref="field"
        v-model="typing"
        class="field typing position-absolute"
        :aria-label="say('valueOfThePoint')"
        :style="{
          left: `${Math.max(0, Math.min(width - 90, xOf(placed.lane?.[selected]?.[0] ?? 0) - 45))}px`,
        }"
        @keydown.enter.stop.prevent="typed"
        @keydown.esc.stop="typing = null"
        @keydown.stop
        @blur="typing = null"
      />
      <span
        v-if="selected >= 0 && placed.lane?.[selected]"
        class="mono position-absolute top-0 right-0 mt-1 me-2 tiny bg-raised py-0 px-1 pointer-events-none"
      >
        {{ clockText(placed.lane[selected]![0]) }} {{ control.text(placed.lane[selected]![1]) }}
      </span>
    </div>
  </div>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 208px 1fr;
}
.head {
  display: grid;
  grid-template: 24px 24px / auto 1fr auto;
  gap: 0 6px;
  align-content: center;
  border-left: 4px solid var(--family);
}
.value {
  grid-area: 2 / 2;
}
.more {
  grid-area: 1 / 3;
  min-width: 26px;
}
.plot {
  touch-action: none;
  cursor: crosshair;
}
.tick {
  font-size: 9px;
  fill: var(--ink-soft);
  stroke: var(--sheet);
  stroke-width: 3px;
  paint-order: stroke;
  pointer-events: none;
}
.typing {
  top: 20px;
  width: 90px;
}
</style>
