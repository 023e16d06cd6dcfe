<script setup lang="ts">
import { mdiMinus, mdiPlus } from '@mdi/js';
import { useElementSize } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import {
  controlName,
  lanesCommand,
  refKey,
  stripControls,
  vcaControls,
  type Placed,
} from '@core/automation/control';
import { withLane, writtenOwners } from '@core/automation/edit';
import { AUTOMATION_MODES, MODE_TEXTS } from '@core/automation/mode';
import { GLIDE_SECONDS } from '@core/automation/write';
import { nameOf } from '@core/session/lookup';
import { barText } from '@core/session/time';
import type { AutomationMode } from '@core/session/types';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import { useAutomationGestures } from '@/session/automation/useAutomationGestures';
import LaneRow from './LaneRow.vue';
import { gridTimes, spanWithin, zoomed, type TimeSpan } from './timeSpan';
import KeyHint from '@/ui/KeyHint.vue';
import { useMenu } from '@/ui/menu';
import ModeMark from '@/ui/ModeMark.vue';
import { useAutomation } from '@/session/automation/automation';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';

const session = useSession();
const pick = usePick();
const transport = useTransport();
const automation = useAutomation();
const gestures = useAutomationGestures();
const commands = useCommands();
const menu = useMenu();
const doc = computed(() => session.shown!);

/** What a change of mode acts on. */
const scope = ref<'this' | 'picked' | 'all'>('this');
const only = ref(true);

interface Group {
  readonly id: string;
  readonly name: string;
  readonly colour: string;
  readonly kind: string;
  readonly mode: AutomationMode;
  readonly lanes: readonly Placed[];
  readonly others: readonly Placed[];
}
const groups = computed<readonly Group[]>(() => {
  const { asked } = automation;
  const written = writtenOwners(doc.value);
  const wanted = new Set(only.value && pick.picked.length ? pick.picked : [...written, ...pick.picked]);
  if (asked) wanted.add(asked.owner);
  for (const id of automation.writing.keys()) wanted.add(id);
  const group = (
    x: { id: string; name: string; colour: string; automation: AutomationMode },
    kind: string,
    all: readonly Placed[],
  ): Group => {
    const shows = (p: Placed) =>
      p.lane !== null ||
      automation.passes.has(refKey(p.ref)) ||
      (asked !== null && refKey(asked) === refKey(p.ref));
    return {
      id: x.id,
      name: x.name || x.id,
      colour: x.colour,
      kind,
      mode: x.automation,
      lanes: all.filter(shows),
      others: all.filter((p) => !shows(p)),
    };
  };
  return [
    ...doc.value.vcas.filter((v) => wanted.has(v.id)).map((v) => group(v, 'VCA', vcaControls(v))),
    ...doc.value.strips.filter((s) => wanted.has(s.id)).map((s) => group(s, s.kind, stripControls(s))),
  ];
});

function setMode(id: string, mode: AutomationMode) {
  if (scope.value === 'this') return gestures.set([id], mode);
  gestures.setScope(scope.value, mode);
}
function openLanes(group: Group, e: MouseEvent) {
  menu.open(
    `Add a lane to ${group.name}`,
    group.others.map((p) => ({ label: name(p), run: () => addLane(group, refKey(p.ref)) })),
    e.currentTarget as Element,
  );
}
function addLane(group: Group, key: string) {
  const placed = group.others.find((p) => refKey(p.ref) === key);
  if (!placed) return;
  const at = Math.round(transport.position * 10000) / 10000;
  session.commit(`lane of ${controlName(doc.value, placed.ref).toLowerCase()}, ${group.name}`, [
    lanesCommand(placed.ref, withLane(placed.lanes, placed.control.id, [[at, placed.value]])),
  ]);
  automation.selected = { key, point: 0 };
}

/** Few lanes are tall, many are as low as can be read. */
const lanesEl = ref<HTMLElement | null>(null);
const { height: room } = useElementSize(lanesEl);
const laneHeight = computed(() => {
  const count = groups.value.reduce((n, g) => n + g.lanes.length, 0);
  return Math.round(
    Math.max(74, Math.min(190, (room.value - groups.value.length * 35) / Math.max(1, count) - 1)),
  );
});

// — time —
const ruler = ref<HTMLElement | null>(null);
const { width } = useElementSize(ruler);
const whole = computed(() => Math.max(1, transport.length));
const wanted = ref<TimeSpan | null>(null);
const span = computed<TimeSpan>(() =>
  wanted.value
    ? spanWithin(wanted.value.start, wanted.value.length, whole.value)
    : { start: 0, length: whole.value },
);
const grid = computed(() =>
  gridTimes(span.value, doc.value.tempo, (28 / Math.max(1, width.value)) * span.value.length),
);
const marks = computed(() =>
  gridTimes(span.value, doc.value.tempo, (70 / Math.max(1, width.value)) * span.value.length),
);
const xOf = (t: number) => ((t - span.value.start) / span.value.length) * 100;
const zoom = (factor: number, around = transport.position) =>
  (wanted.value = zoomed(
    span.value,
    factor,
    around < span.value.start || around > span.value.start + span.value.length
      ? span.value.start + span.value.length / 2
      : around,
    whole.value,
  ));
function wheel(e: WheelEvent, share: number) {
  const around = span.value.start + share * span.value.length;
  if (e.ctrlKey || e.metaKey) zoom(e.deltaY < 0 ? 1.25 : 0.8, around);
  else {
    const along = e.deltaX !== 0 ? e.deltaX : e.shiftKey ? e.deltaY : 0;
    if (along === 0) return;
    wanted.value = spanWithin(
      span.value.start + (along / Math.max(1, width.value)) * span.value.length,
      span.value.length,
      whole.value,
    );
  }
  e.preventDefault();
}
function locate(e: PointerEvent) {
  const box = ruler.value!.getBoundingClientRect();
  transport.locate(span.value.start + ((e.clientX - box.left) / box.width) * span.value.length);
}
// What is zoomed in follows the playhead, a page at a time.
watch(
  () => transport.position,
  (at) => {
    if (
      transport.rolling &&
      wanted.value &&
      (at < span.value.start || at > span.value.start + span.value.length)
    )
      wanted.value = spanWithin(at - span.value.length * 0.05, span.value.length, whole.value);
  },
);
const armed = computed(() => groups.value.some((g) => !['off', 'read'].includes(g.mode)));
const name = (p: Placed) => controlName(doc.value, p.ref);
const asText = (id: string) => nameOf(doc.value, id);
</script>

<template>
  <main class="view" aria-label="Automation">
    <header class="tools">
      <h1>Automation</h1>
      <div class="row">
        <span class="soft">A mode is set for</span>
        <v-radio-group v-model="scope" aria-label="What a change of mode acts on">
          <v-radio value="this" label="this one" />
          <v-radio
            value="picked"
            :disabled="!pick.picked.length"
            :label="`the ${pick.picked.length || ''} picked`"
          />
          <v-radio value="all" label="all" />
        </v-radio-group>
      </div>
      <v-checkbox v-if="pick.picked.length" v-model="only" class="only" label="picked strips alone" />
      <span class="space" />
      <v-btn :icon="mdiMinus" aria-label="Further away" title="Further away" @click="zoom(0.5)" />
      <v-btn
        :icon="mdiPlus"
        aria-label="Closer"
        title="Closer (Ctrl and wheel over a lane)"
        @click="zoom(2)"
      />
      <v-btn variant="outlined" :disabled="!wanted" @click="wanted = null">Whole song</v-btn>
    </header>

    <div class="time">
      <span class="mono soft here">{{ barText(transport.position, doc.tempo) }}</span>
      <div ref="ruler" class="ruler" title="Click: go there" @pointerdown="locate">
        <span
          v-for="s in doc.sections"
          :key="s.id"
          class="section"
          :style="{ left: `${xOf(s.start)}%`, width: `${xOf(s.end) - xOf(s.start)}%` }"
          >{{ s.name }}</span
        >
        <span v-for="t in marks" :key="t" class="mark mono" :style="{ left: `${xOf(t)}%` }">{{
          barText(t, doc.tempo).split(':')[0]
        }}</span>
        <i
          v-if="transport.loop"
          class="loop"
          :class="{ on: transport.looping }"
          :style="{
            left: `${xOf(transport.loop.start)}%`,
            width: `${xOf(transport.loop.end) - xOf(transport.loop.start)}%`,
          }"
        />
        <i class="head-line" :style="{ left: `${xOf(transport.position)}%` }" />
      </div>
    </div>

    <div ref="lanesEl" class="lanes">
      <section v-for="g in groups" :key="g.id" :aria-label="`Lanes of ${g.name}`">
        <div class="owner" :style="{ '--family': g.colour }">
          <ModeMark
            :mode="g.mode"
            :has="g.lanes.some((p) => p.lane)"
            :writes="automation.writing.has(g.id)"
          />
          <b>{{ g.name }}</b>
          <span class="soft">{{ g.kind }}</span>
          <v-select
            class="mode"
            :aria-label="`Automation mode of ${g.name}`"
            :title="MODE_TEXTS[g.mode]"
            :model-value="g.mode"
            :items="AUTOMATION_MODES"
            @update:model-value="(mode) => setMode(g.id, mode)"
          />
          <v-btn
            variant="outlined"
            :disabled="!g.others.length"
            :aria-label="`Add a lane to ${g.name}`"
            @click="openLanes(g, $event)"
            >Add a lane…</v-btn
          >
          <span class="soft text">{{ MODE_TEXTS[g.mode] }}</span>
        </div>
        <LaneRow
          v-for="p in g.lanes"
          :key="refKey(p.ref)"
          :placed="p"
          :colour="g.colour"
          :span="span"
          :grid="grid"
          :height="p.control.stepped ? Math.min(laneHeight, 84) : laneHeight"
          @wheel="wheel"
        />
        <p v-if="!g.lanes.length" class="soft none">
          No lanes yet. Add one above, or set a mode that writes and move a control of {{ g.name }} while it
          plays.
        </p>
      </section>

      <v-empty-state v-if="!groups.length" headline="Nothing is automated yet">
        <template #text>
          Pick a strip on the Sheet, press
          <KeyHint :keys="keyShown(commands.keysOf('autoNext'))" /> until it stands at touch, play, and move
          its fader, pan, mute, a send or an insert: what you do is written, and glides back when you let go.
          Or pick a strip and come back here: its lanes can be drawn by hand, a point a click.
        </template>
        <template #actions
          ><v-btn variant="outlined" @click="commands.run('sheet')">Go to the Sheet</v-btn></template
        >
      </v-empty-state>
    </div>
    <footer class="foot soft">
      <template v-if="armed">
        Armed: what a hand moves while it plays is written. Touch and trim glide back over
        {{ GLIDE_SECONDS }} s. At rest a move sets a point at the playhead.
      </template>
      <template v-else>
        Click: a point. Drag it: Shift for fine steps, Ctrl up and down alone. Alt and click, or Delete: out.
        {{ automation.selected ? 'Enter types its value.' : '' }}
      </template>
      <span class="offscreen" aria-live="polite">{{
        [...automation.writing.keys()].map((id) => `Writing ${asText(id)}`).join(', ')
      }}</span>
    </footer>
  </main>
</template>

<style scoped>
.view {
  flex: 1;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}
.tools {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--rule);
}
h1 {
  font-size: 16px;
  margin: 0;
}
.tools {
  font-size: 13px;
}
.only {
  flex: none;
}
.time {
  display: grid;
  grid-template-columns: 208px 1fr;
  height: 36px;
  border-bottom: 1px solid var(--rule);
}
.here {
  align-self: end;
  padding: 0 0 4px 16px;
  font-size: 12px;
}
.ruler {
  position: relative;
  margin: 0 8px;
  overflow: hidden;
  cursor: pointer;
  background: var(--sheet);
}
.section {
  position: absolute;
  top: 0;
  height: 17px;
  font-size: 11px;
  line-height: 17px;
  padding-left: 5px;
  border-left: 1px solid var(--signal);
  background: color-mix(in srgb, var(--signal) 10%, transparent);
  overflow: hidden;
  white-space: nowrap;
}
.mark {
  position: absolute;
  bottom: 0;
  font-size: 10px;
  padding-left: 3px;
  border-left: 1px solid var(--rule);
  color: var(--ink-soft);
}
.loop {
  position: absolute;
  top: 17px;
  height: 4px;
  background: var(--ink-soft);
}
.loop.on {
  background: var(--signal);
}
.head-line {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--ink);
}
.lanes {
  flex: 1;
  overflow-y: auto;
  min-height: 0;
}
.owner {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 34px;
  padding: 0 12px 0 14px;
  border-left: 4px solid var(--family);
  border-bottom: 1px solid var(--rule);
  background: var(--raised);
  font-size: 13px;
}
.mode {
  max-width: 96px;
}
.owner b {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  min-width: 0;
  max-width: 240px;
}
.text {
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.none {
  padding: 6px 18px;
  margin: 0;
  font-size: 13px;
}
.foot {
  min-height: 28px;
  padding: 6px 16px;
  font-size: 12px;
  border-top: 1px solid var(--rule);
}
</style>
