<script setup lang="ts">
import { computed } from 'vue';
import type { Command } from '@core/edits/commands';
import BoxDialog from '@/ui/BoxDialog.vue';
import { useNotices } from '@/ui/notices';
import ChangePreview from './ChangePreview.vue';
import { useSession } from './session';
import { say } from './texts';

/** A dialog that builds one edit, shows what it would change, and does it in one step. */
const props = defineProps<{
  title: string;
  done: string;
  label: string;
  /** Gives the edit, or throws a refusal that says what is missing. */
  make: () => readonly Command[];
}>();
const emit = defineEmits<{ close: []; did: [] }>();
const session = useSession();
const notices = useNotices();
const edit = computed(() => {
  try {
    return { commands: props.make(), refused: null };
  } catch (error) {
    return { commands: [], refused: (error as Error).message };
  }
});
function act() {
  if (edit.value.refused) return notices.refused(edit.value.refused);
  if (edit.value.commands.length && session.commit(props.label, edit.value.commands)) {
    emit('did');
    emit('close');
  }
}
</script>

<template>
  <BoxDialog :title="title" :width="620" @update:model-value="$event || emit('close')">
    <v-form @submit.prevent="act" @keydown.enter.prevent="act">
      <slot />
      <section class="would border-t mt-2" :aria-label="say('whatWouldChange')">
        <h2>{{ edit.commands.length ? say('thisWouldChange') : say('nothingToChangeYet') }}</h2>
        <p v-if="edit.refused" class="soft">{{ edit.refused }}</p>
        <ChangePreview v-else-if="edit.commands.length" :commands="edit.commands" :most="14" />
      </section>
    </v-form>
    <template #actions>
      <v-btn variant="flat" color="primary" :disabled="!edit.commands.length" @click="act">{{ done }}</v-btn>
      <v-btn variant="outlined" @click="emit('close')">{{ say('cancel') }}</v-btn>
    </template>
  </BoxDialog>
</template>

<style scoped>
.would {
  min-height: 90px;
}
</style>
