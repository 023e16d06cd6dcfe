<script setup lang="ts">
import { computed } from 'vue';
import { drawn, features, type Panel } from '@/commands/feature';
import { useInspector } from '@/commands/inspector';
import { say } from './texts';

/** What is known of the picked strip and of the session, under tabs. */
const inspector = useInspector();
const panels = features()
  .flatMap((f) => f.panels ?? [])
  .sort((a, b) => (a.rank ?? 0) - (b.rank ?? 0));
const shown = computed(() => panels.filter((p) => p.tab === inspector.tab));
const TABS: readonly (readonly [Panel['tab'], string])[] = [
  ['strip', say('strip')],
  ['meters', say('meters')],
  ['trace', say('trace')],
  ['ripple', say('ripple')],
  ['session', say('session')],
  ['load', say('load')],
];
</script>

<template>
  <aside class="inspector flex-0-0 overflow-y-auto border-s pt-1 px-3 pb-3" :aria-label="say('inspector')">
    <v-tabs v-model="inspector.tab" :aria-label="say('whatTheInspectorShows')">
      <v-tab v-for="[tab, title] in TABS" :key="tab" :value="tab">{{ title }}</v-tab>
    </v-tabs>
    <component :is="drawn(p.component)" v-for="(p, i) in shown" :key="`${inspector.tab} ${i}`" />
  </aside>
</template>

<style scoped>
.inspector {
  width: 280px;
  background: var(--ground);
}
.v-tabs {
  margin: 0 0 8px -8px;
}
.v-tab.v-btn {
  padding: 0 5px;
  font-size: 12px;
  min-width: 0;
}
</style>
