<script setup lang="ts">
import { computed } from 'vue';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { lazy } from '@/commands/feature';

const InsertEditor = lazy(() => import('./InsertEditor.vue')).component;
/** The editor of the insert that is open, where it belongs to the strip that is shown. */
const session = useSession();
const pick = usePick();
const strip = computed(() => (pick.shown ? session.strip(pick.shown) : undefined));
const insert = computed(() =>
  pick.insert && pick.insert.strip === strip.value?.id
    ? strip.value.inserts.find((i) => i.id === pick.insert!.id)
    : undefined,
);
</script>

<template>
  <InsertEditor v-if="strip && insert" :strip="strip" :insert="insert" />
</template>
