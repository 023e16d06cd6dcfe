<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import type { Command } from '@core/session/commands/types';
import { useNotices } from '@/ui/notices';
import ChangePreview from './ChangePreview.vue';
import { useSession } from './session';

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
const box = ref<HTMLElement | null>(null);
const edit = computed(() => {
  try {
    return { commands: props.make(), refused: null };
  } catch (error) {
    return { commands: [], refused: (error as Error).message };
  }
});
watch(
  box,
  async (el) => {
    await nextTick();
    el?.querySelector<HTMLElement>('.form input, .form select, footer button')?.focus();
  },
  { flush: 'post' },
);
function act() {
  if (edit.value.refused) return notices.refused(edit.value.refused);
  if (edit.value.commands.length && session.commit(props.label, edit.value.commands)) {
    emit('did');
    emit('close');
  }
}
</script>

<template>
  <v-dialog :model-value="true" width="620" :transition="false" @update:model-value="$event || emit('close')">
    <div
      ref="box"
      class="panel box"
      role="dialog"
      :aria-label="title"
      @keydown.enter="($event.target as HTMLElement).tagName !== 'BUTTON' && act()"
    >
      <header>
        <b>{{ title }}</b>
        <button class="plain" aria-label="Close" @click="emit('close')">✕</button>
      </header>
      <div class="form"><slot /></div>
      <section class="would" aria-label="What would change">
        <h2>{{ edit.commands.length ? 'This would change' : 'Nothing to change yet' }}</h2>
        <p v-if="edit.refused" class="soft">{{ edit.refused }}</p>
        <ChangePreview v-else-if="edit.commands.length" :commands="edit.commands" :most="14" />
      </section>
      <footer>
        <button class="plain primary" :disabled="!edit.commands.length" @click="act">{{ done }}</button>
        <button class="plain boxed" @click="emit('close')">Leave it</button>
      </footer>
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  padding: 14px 20px 18px;
  display: flex;
  flex-direction: column;
  max-height: 86vh;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 16px;
}
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 8px 0 12px;
  overflow-y: auto;
}
.form :deep(.row) {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
/* What does not fit on the line goes on below its own kind, not below the name. */
.form :deep(.row:has(> span:first-child)) {
  position: relative;
  padding-left: 102px;
}
.form :deep(.row > span:first-child) {
  position: absolute;
  left: 0;
  width: 96px;
  color: var(--ink-soft);
}
.form :deep(.field) {
  width: auto;
}
.form :deep(label) {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.would {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  min-height: 90px;
  overflow-y: auto;
}
h2 {
  font-size: 13px;
  margin: 0 0 4px;
}
footer {
  display: flex;
  gap: 8px;
  margin-top: 12px;
}
</style>
