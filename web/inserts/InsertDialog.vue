<script setup lang="ts">
import { computed, watch } from 'vue';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import InsertEditor from './InsertEditor.vue';
import { say } from './texts';

/** The editor of an insert, large. */
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pick = usePick();
const strip = computed(() => (pick.insert ? session.strip(pick.insert.strip) : undefined));
const insert = computed(() => strip.value?.inserts.find((i) => i.id === pick.insert?.id));
watch(insert, (i) => i || emit('close'));
</script>

<template>
  <v-dialog
    :model-value="true"
    width="1040"
    :scrim="false"
    :aria-label="say('largeEditorOfName', { name: strip?.name ?? '' })"
    @update:model-value="$event || emit('close')"
  >
    <v-card v-if="strip && insert">
      <v-card-text><InsertEditor :strip="strip" :insert="insert" large @close="emit('close')" /></v-card-text>
    </v-card>
  </v-dialog>
</template>
