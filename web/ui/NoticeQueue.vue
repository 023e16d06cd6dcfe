<script setup lang="ts">
import { ref, watch } from 'vue';
import { useNotices, type Notice } from './notices';

defineProps<{
  /** Whether a dialog is open: its fields and buttons stand below, and its title is known. */
  readonly dialog: boolean;
}>();

/** Shows what the application says for a while: what was refused longer than what was done. */
const notices = useNotices();
const queue = ref<object[]>([]);
watch(
  () => notices.list.at(-1),
  (last: Notice | undefined) => {
    if (last)
      queue.value.push({
        text: last.text,
        timeout: last.kind === 'done' ? 4000 : 12000,
        role: last.kind === 'refused' ? 'alert' : 'status',
        class: ['notice', last.kind],
      });
  },
);
</script>

<template>
  <!-- Above every dialog, but no part of their pile: else Escape would be the notice's, which does nothing with it. -->
  <v-snackbar-queue
    v-model="queue"
    :_disable-global-stack="true"
    :z-index="3000"
    :location="dialog ? 'top' : 'bottom'"
    :content-props="{ style: { marginBottom: dialog ? '0' : '96px' } }"
    :total-visible="4"
    display-strategy="overflow"
    closable
    close-text="Close"
    color="raised"
  />
</template>

<style>
.notice .v-snackbar__wrapper {
  border: 1px solid var(--rule);
  border-left: 4px solid var(--signal);
  box-shadow: none;
  min-height: 36px;
  min-width: 0;
}
.notice.refused .v-snackbar__wrapper {
  border-left-color: var(--alert);
}
.notice .v-snackbar__content {
  font-size: 14px;
  letter-spacing: 0;
  padding: 6px 14px;
}
</style>
