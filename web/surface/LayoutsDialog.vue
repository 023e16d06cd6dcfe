<script setup lang="ts">
import { computed, ref } from 'vue';
import { dropLayout, keepLayout, withPins } from '@core/operations/pins';
import { nameOf } from '@core/session/lookup';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import BoxDialog from '@/ui/BoxDialog.vue';
import { say } from './texts';
import { useSurface } from './useSurface';

/** Pins and layouts of the session for the desk: what is kept at its edges, and orders of one's own. */
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pick = usePick();
const surface = useSurface();
const name = ref('');
const doc = computed(() => session.document);
const named = (id: string) => (doc.value ? nameOf(doc.value, id) : id);
const units = computed(() => [
  { title: say('wholeDesk'), value: null as string | null },
  ...surface.desk.units.flatMap((u) =>
    surface.profile(u.profile)?.width ? [{ title: u.name, value: u.id as string | null }] : [],
  ),
]);
const unit = ref<string | null>(null);
/** In the order in which they were picked. */
const order = computed(() => [...pick.chosen].filter((id) => session.strip(id)));
const pin = (side: 'left' | 'right') => session.perform((s) => withPins(s, pick.picked, side, unit.value));
/** Takes a pin away: pinned to where it is already, it is pinned no more. */
const unpin = (p: { strip: string; side: 'left' | 'right'; unit: string | null }) =>
  session.perform((s) => withPins(s, [p.strip], p.side, p.unit));
function keep() {
  const title = name.value.trim();
  if (title) session.perform((s) => keepLayout(s, title, order.value));
  name.value = '';
}
</script>

<template>
  <BoxDialog :title="say('pinsAndLayouts')" @close="emit('close')">
    <h3>{{ say('pins') }}</h3>
    <p v-if="!doc?.pins.length" class="soft">{{ say('noPinsPickStrips') }}</p>
    <v-list v-else density="compact">
      <v-list-item
        v-for="p in doc.pins"
        :key="`${p.strip} ${p.side} ${p.unit}`"
        :title="named(p.strip)"
        :subtitle="`${say(p.side)}${p.unit ? `, ${surface.unitName(p.unit)}` : ''}`"
      >
        <template #append>
          <v-btn size="small" @click="unpin(p)">{{ say('unpin') }}</v-btn>
        </template>
      </v-list-item>
    </v-list>
    <div class="d-flex ga-2 align-center mb-4">
      <span class="soft text-no-wrap">{{ say('atTheEdgeOf') }}</span>
      <v-select v-model="unit" :items="units" :aria-label="say('atTheEdgeOf')" />
      <v-btn variant="outlined" :disabled="!pick.picked.length" @click="pin('left')">{{
        say('pinLeft')
      }}</v-btn>
      <v-btn variant="outlined" :disabled="!pick.picked.length" @click="pin('right')">{{
        say('pinRight')
      }}</v-btn>
    </div>
    <h3>{{ say('layouts') }}</h3>
    <p v-if="!doc?.layouts.length" class="soft">{{ say('noLayoutsPickStrips') }}</p>
    <v-list v-else density="compact">
      <v-list-item
        v-for="l in doc.layouts"
        :key="l.id"
        :title="l.name || l.id"
        :subtitle="l.order.map(named).join(', ')"
      >
        <template #append>
          <v-btn size="small" @click="pick.set(l.order)">{{ say('pickThem') }}</v-btn>
          <v-btn size="small" @click="session.perform((s) => dropLayout(s, l.id))">{{ say('remove') }}</v-btn>
        </template>
      </v-list-item>
    </v-list>
    <form class="d-flex ga-2 align-center" @submit.prevent="keep">
      <v-text-field v-model="name" :label="say('nameOfLayout')" maxlength="200" />
      <v-btn type="submit" variant="outlined" :disabled="!name.trim() || !pick.picked.length">{{
        say('keepPickedAsLayout', { n: pick.picked.length })
      }}</v-btn>
    </form>
  </BoxDialog>
</template>
