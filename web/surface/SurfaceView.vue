<script setup lang="ts">
import { computed, ref } from 'vue';
import SimulatedDeskPanel from './SimulatedDeskPanel.vue';
import { useSurface } from './useSurface';

const surface = useSurface();
const input = ref('');
const output = ref('');
const last = computed(() => Math.min(surface.total, surface.first + surface.profile.width));
function connect() {
  const from = surface.ports.inputs.find((p) => p.id === input.value);
  if (from) void surface.connect(from, surface.ports.outputs.find((p) => p.id === output.value) ?? null);
}
</script>

<template>
  <main class="view">
    <div class="desk-side">
      <div class="window">
        <b>Strips {{ surface.first + 1 }}–{{ last }} of {{ surface.total }}</b>
        <div class="map" aria-hidden="true">
          <i
            class="at"
            :style="{
              left: `${(surface.first / Math.max(1, surface.total)) * 100}%`,
              width: `${(surface.profile.width / Math.max(1, surface.total)) * 100}%`,
            }"
          />
        </div>
        <button class="plain boxed" @click="surface.bank(-1)">Bank left <kbd>[</kbd></button>
        <button class="plain boxed" @click="surface.bank(1)">Bank right <kbd>]</kbd></button>
      </div>
      <SimulatedDeskPanel />
    </div>
    <aside>
      <section>
        <h2>Devices</h2>
        <ul>
          <li v-for="c in surface.connections" :key="c.id">
            {{ c.name }} <span v-if="c.profile.simulated" class="tag">simulated</span>
            <button
              v-if="!c.profile.simulated || c.id !== 'simulated'"
              class="plain"
              @click="surface.disconnect(c.id)"
            >
              Disconnect
            </button>
          </li>
        </ul>
        <p v-if="!surface.midiOffered" class="soft">
          This browser offers no MIDI ports. A browser with Web MIDI connects real desks here.
        </p>
        <button v-else-if="!surface.midi" class="plain boxed" @click="surface.askMidi">
          Look for MIDI devices…
        </button>
        <div v-else-if="surface.ports.inputs.length" class="ports">
          <select v-model="input" class="field" aria-label="MIDI input">
            <option value="">From…</option>
            <option v-for="p in surface.ports.inputs" :key="p.id" :value="p.id">{{ p.name }}</option>
          </select>
          <select v-model="output" class="field" aria-label="MIDI output">
            <option value="">Back to…</option>
            <option v-for="p in surface.ports.outputs" :key="p.id" :value="p.id">{{ p.name }}</option>
          </select>
          <button class="plain boxed" :disabled="!input" @click="connect">Connect</button>
          <p class="soft">
            It has to speak as the profile “{{ surface.profile.name }}” says (docs/surfaces.md).
          </p>
        </div>
        <p v-else class="soft">No MIDI device is plugged in. Plug one in: it appears here by itself.</p>
      </section>
      <section class="monitor-side">
        <h2>MIDI, as it goes by</h2>
        <p v-if="!surface.monitor.length" class="soft">Move a fader: its bytes appear here.</p>
        <ol class="monitor mono" aria-label="MIDI monitor">
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
.view {
  flex: 1;
  min-height: 0;
  display: flex;
}
.desk-side {
  flex: 1;
  padding: 16px 20px;
  overflow: auto;
}
.window {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 12px;
}
.map {
  position: relative;
  flex: 1;
  height: 8px;
  background: var(--well);
}
.map .at {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--signal);
}
aside {
  width: 300px;
  flex: none;
  border-left: 1px solid var(--rule);
  padding: 16px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}
h2 {
  font-size: 14px;
  margin: 0 0 6px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.tag {
  border: 1px dashed var(--caution);
  color: var(--caution);
  padding: 0 6px;
  font-size: 12px;
}
.ports {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.monitor-side {
  min-height: 0;
  display: flex;
  flex-direction: column;
  flex: 1;
}
.monitor {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  font-size: 11px;
  flex: 1;
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
