<script setup lang="ts">
import { useStorage } from '@vueuse/core';
import { computed, onMounted, ref, watch } from 'vue';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import KeyHint from '@/ui/KeyHint.vue';
import SimulatedDeskPanel from './SimulatedDeskPanel.vue';
import { useSurface } from './useSurface';
import { say } from './texts';

/** The desk, its window over the strips, and the devices that are connected. */
const surface = useSurface();
const commands = useCommands();
const input = ref<string | null>(null);
const output = ref<string | null>(null);
const profile = ref(surface.profile.id);
const last = computed(() => Math.min(surface.total, surface.first + surface.profile.width));
const named = (ports: readonly MIDIPort[]) =>
  ports.map((p) => ({ title: p.name ?? say('midiPort'), value: p.id }));
const profiles = computed(() => surface.profiles.map((p) => ({ title: p.name, value: p.id })));
/** The profile that a device was given last, by the name of its port. */
const known = useStorage<Record<string, string>>('zonula.portProfiles', {});
watch(input, (id) => {
  const before = known.value[surface.ports.inputs.find((p) => p.id === id)?.name ?? ''];
  if (before && surface.profiles.some((p) => p.id === before)) profile.value = before;
});
onMounted(surface.loadProfiles);
function connect() {
  const from = surface.ports.inputs.find((p) => p.id === input.value);
  const speaks = surface.profiles.find((p) => p.id === profile.value);
  if (!from) return;
  known.value = { ...known.value, [from.name ?? '']: profile.value };
  void surface.connect(from, surface.ports.outputs.find((p) => p.id === output.value) ?? null, speaks);
}
</script>

<template>
  <main class="view flex-1-1-0 min-h-0 d-flex">
    <div class="flex-1-1-0 min-w-0 py-4 px-5 overflow-auto">
      <div class="row window ga-3 mb-3">
        <b>{{ say('stripsFirstLastTotal', { first: surface.first + 1, last, total: surface.total }) }}</b>
        <div class="map position-relative flex-1-1-0 bg-well" aria-hidden="true">
          <i
            class="at"
            :style="{
              left: `${(surface.first / Math.max(1, surface.total)) * 100}%`,
              width: `${(surface.profile.width / Math.max(1, surface.total)) * 100}%`,
            }"
          />
        </div>
        <v-btn variant="outlined" @click="surface.bank(-1)"
          >{{ say('bankLeft') }} <KeyHint class="key ms-1" :keys="keyShown(commands.keysOf('bankLeft'))"
        /></v-btn>
        <v-btn variant="outlined" @click="surface.bank(1)"
          >{{ say('bankRight') }} <KeyHint class="key ms-1" :keys="keyShown(commands.keysOf('bankRight'))"
        /></v-btn>
      </div>
      <SimulatedDeskPanel />
    </div>
    <aside class="flex-0-0 border-s pa-4 d-flex flex-column ga-3 min-h-0">
      <section>
        <h2>{{ say('devices') }}</h2>
        <v-list bg-color="transparent">
          <v-list-item
            v-for="c in surface.connections"
            :key="c.id"
            :title="c.name"
            :subtitle="c.profile.name"
          >
            <template #append>
              <v-chip v-if="c.id === 'simulated'" class="caution" :text="say('simulated')" />
              <v-btn v-if="c.id !== 'simulated'" @click="surface.disconnect(c.id)">{{
                say('disconnect')
              }}</v-btn>
            </template>
          </v-list-item>
        </v-list>
        <p v-if="!surface.midiOffered" class="soft">{{ say('browserOffersNoMidiPorts') }}</p>
        <v-btn v-else-if="!surface.midi" variant="outlined" @click="surface.askMidi">{{
          say('lookForMidiDevices')
        }}</v-btn>
        <div v-else-if="surface.ports.inputs.length" class="ports d-flex flex-column ga-1">
          <v-select
            v-model="input"
            :items="named(surface.ports.inputs)"
            :placeholder="say('from')"
            :aria-label="say('midiInput')"
          />
          <v-select
            v-model="output"
            :items="named(surface.ports.outputs)"
            :placeholder="say('backTo')"
            clearable
            :aria-label="say('midiOutput')"
          />
          <v-select
            v-model="profile"
            :items="profiles"
            :aria-label="say('profileHowItSpeaks')"
            :hint="say('howSpeaksDocsSurfacesMd')"
            persistent-hint
          />
          <v-btn variant="outlined" :disabled="!input" @click="connect">{{ say('connect') }}</v-btn>
        </div>
        <p v-else class="soft">{{ say('noMidiDevicePluggedPlug') }}</p>
      </section>
      <section class="monitor-side d-flex flex-column flex-1-1-0">
        <h2>{{ say('midiAsGoes') }}</h2>
        <p v-if="!surface.monitor.length" class="soft">{{ say('moveFaderBytesAppearHere') }}</p>
        <ol
          class="monitor mono plain-list ma-0 pa-0 overflow-y-auto tiny flex-1-1-0"
          :aria-label="say('midiMonitor')"
        >
          <li
            v-for="(line, i) in [...surface.monitor].reverse()"
            :key="surface.monitor.length - i"
            :class="line.way"
          >
            <span>{{ line.way === 'in' ? '→' : '←' }}</span> {{ line.bytes }}
          </li>
        </ol>
      </section>
    </aside>
  </main>
</template>

<style scoped>
.map {
  height: 8px;
}
.map .at {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--signal);
}
aside {
  width: 300px;
}
@media (max-width: 1180px) {
  .view {
    display: block;
    overflow-y: auto;
  }
  aside {
    width: auto;
    border: 0;
    border-top: 1px solid var(--rule);
  }
}
.monitor-side {
  min-height: 120px;
}
.monitor li {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  line-height: 18px;
}
.monitor .out {
  color: var(--ink-soft);
}
.monitor .in span {
  color: var(--signal);
}
</style>
