<script setup lang="ts">
import { mdiMinus, mdiPlus } from '@mdi/js';
import { useElementSize } from '@vueuse/core';
import { computed, ref } from 'vue';
import {
  controlName,
  lanesCommand,
  refKey,
  stripControls,
  vcaControls,
  type PlacedControl,
} from '@core/automation/control';
import { withLane, writtenOwners } from '@core/automation/edit';
import { MODE_TEXTS } from '@core/session/mode';
import { AUTOMATION_MODES } from '@core/session/fields/tables';
import { GLIDE_SECONDS } from '@core/automation/write';
import { nameOf } from '@core/session/lookup';
import { barText } from '@core/session/time';
import type { AutomationMode } from '@core/session/types';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import { useAutomationEdits } from '@/session/automation/useAutomationEdits';
import LaneRow from './LaneRow.vue';
import TimeRuler from './TimeRuler.vue';
import { useTimeSpan } from './useTimeSpan';
import KeyHint from '@/ui/KeyHint.vue';
import { useMenu } from '@/ui/menu';
import ModeMark from '@/ui/ModeMark.vue';
import { useAutomation } from '@/session/automation/automation';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { say } from './texts';

const session = useSession();
const pick = usePick();
const transport = useTransport();
const automation = useAutomation();
const edits = useAutomationEdits();
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
  readonly lanes: readonly PlacedControl[];
  readonly others: readonly PlacedControl[];
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
    all: readonly PlacedControl[],
  ): Group => {
    const shows = (p: PlacedControl) =>
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
    ...doc.value.vcas.filter((v) => wanted.has(v.id)).map((v) => group(v, say('vca'), vcaControls(v))),
    ...doc.value.strips.filter((s) => wanted.has(s.id)).map((s) => group(s, s.kind, stripControls(s))),
  ];
});

function setMode(id: string, mode: AutomationMode) {
  if (scope.value === 'this') return edits.set([id], mode);
  edits.setScope(scope.value, mode);
}
function openLanes(group: Group, e: MouseEvent) {
  menu.open(
    say('addLaneName', { name: group.name }),
    group.others.map((p) => ({ label: name(p), run: () => addLane(group, refKey(p.ref)) })),
    e.currentTarget as Element,
  );
}
function addLane(group: Group, key: string) {
  const placed = group.others.find((p) => refKey(p.ref) === key);
  if (!placed) return;
  const at = Math.round(transport.position * 10000) / 10000;
  session.commit(
    say('laneOfControlnameName', {
      controlName: controlName(doc.value, placed.ref).toLowerCase(),
      name: group.name,
    }),
    [lanesCommand(placed.ref, withLane(placed.lanes, placed.control.id, [[at, placed.value]]))],
  );
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

const { wanted, span, grid, zoom, wheel, width } = useTimeSpan(doc);
const armed = computed(() => groups.value.some((g) => !['off', 'read'].includes(g.mode)));
const name = (p: PlacedControl) => controlName(doc.value, p.ref);
const asText = (id: string) => nameOf(doc.value, id);
</script>

<template>
  <main class="view flex-1-1-0 d-flex flex-column min-w-0 min-h-0" :aria-label="say('automation')">
    <header class="tools d-flex align-center flex-wrap py-2 px-4 border-b text text-truncate small">
      <h1 class="ma-0">{{ say('automation') }}</h1>
      <div class="row">
        <span class="soft">{{ say('modeSet') }}</span>
        <v-radio-group v-model="scope" :aria-label="say('changeModeActs')">
          <v-radio value="this" :label="say('thisOne')" />
          <v-radio
            value="picked"
            :disabled="!pick.picked.length"
            :label="say('thePickedPicked', { picked: pick.picked.length || '' })"
          />
          <v-radio value="all" :label="say('all')" />
        </v-radio-group>
      </div>
      <v-checkbox
        v-if="pick.picked.length"
        v-model="only"
        class="only flex-0-0"
        :label="say('pickedStripsAlone')"
      />
      <v-spacer />
      <v-btn
        :icon="mdiMinus"
        :aria-label="say('furtherAway')"
        :title="say('furtherAway')"
        @click="zoom(0.5)"
      />
      <v-btn
        :icon="mdiPlus"
        :aria-label="say('closer')"
        :title="say('closerCtrlWheelOverLane')"
        @click="zoom(2)"
      />
      <v-btn variant="outlined" :disabled="!wanted" @click="wanted = null">{{ say('wholeSong') }}</v-btn>
    </header>

    <div class="time border-b">
      <span class="mono soft here align-self-end pt-0 pe-0 pb-1 ps-4 small">{{
        barText(transport.position, doc.tempo)
      }}</span>
      <TimeRuler v-model:width="width" :span="span" />
    </div>

    <div ref="lanesEl" class="lanes flex-1-1-0 overflow-y-auto min-h-0">
      <section v-for="g in groups" :key="g.id" :aria-label="say('lanesOfName', { name: g.name })">
        <div
          class="owner d-flex align-center ga-2 pt-0 pe-3 pb-0 ps-3 border-b bg-raised text text-truncate small"
          :style="{ '--family': g.colour }"
        >
          <ModeMark
            :mode="g.mode"
            :has="g.lanes.some((p) => p.lane)"
            :writes="automation.writing.has(g.id)"
          />
          <b>{{ g.name }}</b>
          <span class="soft">{{ g.kind }}</span>
          <v-select
            class="mode"
            :aria-label="say('automationModeOfName', { name: g.name })"
            :title="MODE_TEXTS[g.mode]"
            :model-value="g.mode"
            :items="AUTOMATION_MODES"
            @update:model-value="(mode) => setMode(g.id, mode)"
          />
          <v-btn
            variant="outlined"
            :disabled="!g.others.length"
            :aria-label="say('addLaneName', { name: g.name })"
            @click="openLanes(g, $event)"
            >{{ say('addALane') }}</v-btn
          >
          <span class="soft text text-truncate small">{{ MODE_TEXTS[g.mode] }}</span>
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
        <p v-if="!g.lanes.length" class="soft none ma-0 text">
          {{ say('noLanesYetAddOne', { name: g.name }) }}
        </p>
      </section>

      <v-empty-state v-if="!groups.length" :headline="say('nothingIsAutomatedYet')">
        <template #text>
          {{ say('pickStripSheetPress') }} <KeyHint :keys="keyShown(commands.keysOf('autoNext'))" />
          {{ say('untilStandsTouchPlayMove') }}
        </template>
        <template #actions
          ><v-btn variant="outlined" @click="commands.run('sheet')">{{
            say('goToTheSheet')
          }}</v-btn></template
        >
      </v-empty-state>
    </div>
    <footer class="foot soft py-1 px-4 small border-t">
      <template v-if="armed">
        {{ say('armedHandMovesWhilePlays', { glideseconds: GLIDE_SECONDS }) }}
      </template>
      <template v-else>
        {{
          say('clickPointDragShiftFine', { selected: automation.selected ? say('enterTypesItsValue') : '' })
        }}
      </template>
      <span class="offscreen" aria-live="polite">{{
        [...automation.writing.keys()].map((id) => say('writingAs', { as: asText(id) })).join(', ')
      }}</span>
    </footer>
  </main>
</template>

<style scoped>
.tools {
  gap: 4px 16px;
}
h1 {
  font-size: 16px;
}
.time {
  display: grid;
  grid-template-columns: 208px 1fr;
  height: 36px;
}
.owner {
  min-height: 34px;
  border-left: 4px solid var(--family);
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
.none {
  padding: 6px 18px;
}
.foot {
  min-height: 28px;
}
</style>
