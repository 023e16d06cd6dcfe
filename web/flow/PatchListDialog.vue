<script setup lang="ts">
import type { Command } from '@core/edits/commands';
import ChangePreview from '@/session/ChangePreview.vue';
import { useSession } from '@/session/session';
import BoxDialog from '@/ui/BoxDialog.vue';
import { say } from './texts';

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
  if (session.commit(say('patchListName', { name: props.patch.name }), props.patch.commands)) emit('close');
}
</script>

<template>
  <BoxDialog
    :title="patch.name"
    :label="say('patchList')"
    :width="640"
    @update:model-value="$event || emit('close')"
  >
    <p class="soft">{{ say('matchedRowsNameStripSession', { matched: patch.matched }) }}</p>
    <v-alert v-if="patch.problems.length" type="warning" :icon="false">
      <div v-for="p in patch.problems.slice(0, MOST)" :key="p">{{ p }}</div>
      <div v-if="patch.problems.length > MOST">
        {{ say('andProblemsMore', { problems: patch.problems.length - MOST }) }}
      </div>
    </v-alert>
    <ChangePreview :commands="patch.commands" />
    <template #actions>
      <v-btn variant="flat" color="primary" :disabled="!patch.commands.length" @click="apply">{{
        say('apply')
      }}</v-btn>
      <v-btn variant="outlined" @click="emit('close')">{{ say('cancel') }}</v-btn>
    </template>
  </BoxDialog>
</template>
