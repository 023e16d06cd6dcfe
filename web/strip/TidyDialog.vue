<script setup lang="ts">
import { computed, ref } from 'vue';
import { tidy, tidyParts } from '@core/operations/tidy';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import { say } from './texts';

const emit = defineEmits<{ close: [] }>();
const session = useSession();
const parts = computed(() => tidyParts(session.document!));
// Pairs change what is heard, so they are offered, not taken.
const chosen = ref<string[]>(parts.value.filter((p) => p.kind !== 'pair').map((p) => p.id));
const KINDS = {
  family: say('families'),
  order: say('order'),
  colour: say('colours'),
  icon: say('icons'),
  pair: say('stereoPairsHeard'),
} as const;
const groups = computed(() =>
  (['family', 'order', 'colour', 'icon', 'pair'] as const)
    .map((kind) => ({ kind, title: KINDS[kind], list: parts.value.filter((p) => p.kind === kind) }))
    .filter((g) => g.list.length),
);
const all = (ids: readonly string[]) => ids.every((id) => chosen.value.includes(id));
function toggle(ids: readonly string[]) {
  chosen.value = all(ids)
    ? chosen.value.filter((id) => !ids.includes(id))
    : [...new Set([...chosen.value, ...ids])];
}
</script>

<template>
  <EditDialog
    :title="say('tidyTheSession')"
    :done="say('tidyTitle')"
    :label="say('tidy')"
    :make="() => tidy(session.document!, chosen)"
    @close="emit('close')"
  >
    <p v-if="!parts.length">{{ say('everythingTidyStripsHaveFamilies') }}</p>
    <div v-for="g in groups" :key="g.kind" role="group" :aria-label="g.title" class="group">
      <v-checkbox
        :model-value="all(g.list.map((p) => p.id))"
        :indeterminate="!all(g.list.map((p) => p.id)) && g.list.some((p) => chosen.includes(p.id))"
        class="head font-weight-semibold"
        :label="g.title"
        @update:model-value="toggle(g.list.map((p) => p.id))"
      />
      <div class="parts">
        <v-checkbox v-for="p in g.list" :key="p.id" v-model="chosen" :value="p.id" :label="p.title" />
      </div>
    </div>
  </EditDialog>
</template>

<style scoped>
.parts {
  padding-left: 22px;
}
</style>
