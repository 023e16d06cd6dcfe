<script setup lang="ts">
import { useElementSize, useStorage } from '@vueuse/core';
import { computed, ref } from 'vue';
import { reachRole } from '@core/surface/keys/reach';
import { reaches } from '@core/surface/reaches/registry';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import KeyHint from '@/ui/KeyHint.vue';
import DeskPanel from './DeskPanel.vue';
import LearnPanel from './LearnPanel.vue';
import MonitorPanel from './MonitorPanel.vue';
import OscPanel from './osc/OscPanel.vue';
import { geometryOf, scaleFor } from './parts/scale';
import { say } from './texts';
import UnitPanel from './UnitPanel.vue';
import UsePanel from './UsePanel.vue';
import { useLearning } from './useLearning';
import { useSurface } from './useSurface';

/** The desk: its windows over the strips, and its units as they lie on the table. */
const surface = useSurface();
const learning = useLearning();
const commands = useCommands();
surface.used = true;
const face = ref<HTMLElement | null>(null);
const { width, height } = useElementSize(face);
const PANELS = ['desk', 'midi', 'osc', 'use'] as const;
const chosen = useStorage<(typeof PANELS)[number] | 'none' | 'auto'>('zonula.surfaceSide', 'auto');
/** Beside one unit there is room for its MIDI; several want the room themselves, until something else is asked for. */
const side = computed(() =>
  chosen.value !== 'auto' ? chosen.value : surface.desk.units.length > 1 ? 'none' : 'midi',
);

const units = computed(() =>
  surface.desk.units.flatMap((unit) => {
    const device = surface.simulated.get(unit.id) ?? null;
    // One that has yet to be learned is drawn as it is.
    const profile = surface.profile(unit.profile) ?? device?.profile;
    return profile ? [{ unit, profile, device }] : [];
  }),
);
/** While one is learned there is room for it alone, beside what was found. */
const drawn = computed(() =>
  units.value.filter(
    (u) => u.device && (!learning.active || !learning.device || learning.device.unit === u.unit.id),
  ),
);
const scale = computed(() =>
  scaleFor(
    drawn.value.map((u) => geometryOf(u.device!.profile)),
    // Room for a scroll bar, which would otherwise come and go.
    width.value - 16,
    height.value - 8,
  ),
);
/** Units are told apart on the Sheet by numbers: those with faders, in their order. */
const numbers = computed(() => {
  const many = units.value.filter((u) => u.profile.width > 0);
  return new Map(many.length > 1 ? many.map((u, i) => [u.unit.id, i + 1]) : []);
});
const asList = computed(() =>
  reaches.map((r) => ({ title: r.name, value: r.id, keys: keyShown(commands.keysOf(reachRole(r.id))) })),
);
const away = computed(() => units.value.filter((u) => !u.device));
</script>

<template>
  <main class="view flex-1-1-0 min-h-0 d-flex">
    <div class="flex-1-1-0 min-w-0 d-flex flex-column py-2 px-3 ga-2">
      <div class="row ga-3 align-center">
        <div
          v-for="w in surface.windows"
          :key="w.group.key"
          class="d-flex ga-2 align-center flex-1-1-0 min-w-0"
        >
          <b class="text-no-wrap"
            >{{ w.group.key ? `${numbers.get(w.group.key) ?? ''} ` : ''
            }}{{
              w.total
                ? say('stripsFirstLastTotal', {
                    first: w.first + 1,
                    last: Math.max(w.last, w.first + 1),
                    total: w.total,
                  })
                : say('noStripsHere')
            }}</b
          >
          <v-select
            class="reach flex-0-0"
            :model-value="w.reach.id"
            :items="asList"
            :aria-label="say('reach')"
            @update:model-value="surface.press(reachRole($event), w.group.units[0]?.id)"
          >
            <template #item="{ props: line, item }">
              <v-list-item v-bind="line">
                <template #append><KeyHint :keys="item.keys" /></template>
              </v-list-item>
            </template>
          </v-select>
          <div class="map position-relative flex-1-1-0 bg-well" aria-hidden="true">
            <i
              class="position-absolute top-0 bottom-0"
              :style="{
                left: `${(w.first / Math.max(1, w.total)) * 100}%`,
                width: `${((Math.max(w.last, w.first) - w.first) / Math.max(1, w.total)) * 100}%`,
              }"
            />
          </div>
        </div>
        <v-btn
          v-if="surface.desk.units.length > 1"
          variant="outlined"
          size="small"
          @click="surface.press('join')"
          >{{ surface.desk.joined ? say('partUnits') : say('joinUnits') }}</v-btn
        >
        <v-btn v-if="!learning.active" variant="outlined" size="small" @click="learning.start()">{{
          say('learn')
        }}</v-btn>
        <v-btn
          v-for="panel in PANELS"
          :key="panel"
          size="small"
          :variant="side === panel ? 'flat' : 'outlined'"
          :color="side === panel ? 'primary' : undefined"
          :aria-pressed="side === panel"
          @click="chosen = side === panel ? 'none' : panel"
          >{{ say(panel) }}</v-btn
        >
      </div>
      <p v-if="!units.length" class="soft">{{ say('noUnitYetAddOne') }}</p>
      <p v-for="u in away" :key="u.unit.id" class="soft ma-0">
        {{ say('unitSpeaksThere', { name: u.unit.name }) }}
      </p>
      <LearnPanel v-if="learning.active" class="flex-1-1-0" />
      <div ref="face" class="min-h-0 overflow-auto" :class="learning.active ? 'flex-0-0' : 'flex-1-1-0'">
        <div class="faces d-flex flex-wrap">
          <UnitPanel
            v-for="u in drawn"
            :key="u.unit.id"
            :unit="u.unit"
            :profile="u.profile"
            :device="u.device!"
            :scale="scale"
            :number="numbers.get(u.unit.id) ?? null"
          />
        </div>
      </div>
    </div>
    <aside
      v-if="side !== 'none' && !learning.active"
      class="flex-0-0 border-s pa-3 d-flex flex-column min-h-0 overflow-y-auto"
    >
      <DeskPanel v-if="side === 'desk'" />
      <OscPanel v-else-if="side === 'osc'" />
      <UsePanel v-else-if="side === 'use'" />
      <MonitorPanel v-else />
    </aside>
  </main>
</template>

<style scoped>
.map {
  height: 8px;
  min-width: 40px;
}
.map i {
  background: var(--signal);
}
.reach {
  width: 190px;
}
.faces {
  gap: 12px;
}
aside {
  width: min(270px, 30vw);
}
</style>
