<script setup lang="ts">
import type { Command } from '@core/session/commands/types';
import ChangePreview from '@/session/ChangePreview.vue';
import { useSession } from '@/session/session';
import BoxDialog from '@/ui/BoxDialog.vue';

/** A patch list that was read: what it would change. */
export interface ReadPatch {
  readonly name: string;
  readonly commands: readonly Command[];
  readonly problems: readonly string[];
  readonly matched: number;
}
const props = defineProps<{ patch: ReadPatch }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const MOST = 8;
function apply() {
  if (session.commit(`patch list ${props.patch.name}`, props.patch.commands)) emit('close');
}
</script>

<template>
  <BoxDialog
    :title="patch.name"
    label="Patch list"
    :width="640"
    @update:model-value="$event || emit('close')"
  >
    <p class="soft">{{ patch.matched }} of its rows name a strip of this session.</p>
    <v-alert v-if="patch.problems.length" type="warning" :icon="false">
      <div v-for="p in patch.problems.slice(0, MOST)" :key="p">{{ p }}</div>
      <div v-if="patch.problems.length > MOST">and {{ patch.problems.length - MOST }} more</div>
    </v-alert>
    <ChangePreview :commands="patch.commands" />
    <template #actions>
      <v-btn variant="flat" color="primary" :disabled="!patch.commands.length" @click="apply">Apply</v-btn>
      <v-btn variant="outlined" @click="emit('close')">Cancel</v-btn>
    </template>
  </BoxDialog>
</template>
