<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted } from 'vue';
import { say } from './texts';
import { useSurface } from './useSurface';

/** MIDI as it goes by: what each piece says, and its bytes. */
const surface = useSurface();
onMounted(surface.monitor.watch);
onBeforeUnmount(surface.monitor.unwatch);
const lines = computed(() =>
  surface.monitor.named((id) => {
    const unit = surface.desk.units.find((u) => u.id === id);
    return unit && surface.profile(unit.profile);
  }),
);
const many = computed(() => surface.desk.units.length > 1);
</script>

<template>
  <section class="d-flex flex-column flex-1-1-0 min-h-0">
    <h2>{{ say('midiAsGoes') }}</h2>
    <p v-if="!lines.length" class="soft">{{ say('moveFaderBytesAppearHere') }}</p>
    <ol
      class="mono plain-list ma-0 pa-0 overflow-y-auto tiny flex-1-1-0"
      :aria-label="say('midiMonitor')"
      tabindex="0"
    >
      <li v-for="line in lines" :key="line.key" :class="{ soft: line.way === 'out' }" class="mb-1">
        <b>{{ line.way === 'in' ? '→' : '←' }}</b>
        {{ many ? `${surface.unitName(line.unit)}: ` : '' }}{{ line.names }}
        <div class="soft text-truncate">{{ line.hex }}</div>
      </li>
    </ol>
  </section>
</template>
