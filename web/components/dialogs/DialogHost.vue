<script setup lang="ts">
import { useActions } from '../../actions/actions';
import RenameDialog from './RenameDialog.vue';
import ReturnDialog from './ReturnDialog.vue';
import SendsDialog from './SendsDialog.vue';
import TidyDialog from './TidyDialog.vue';

const actions = useActions();
const close = () => (actions.dialog = null);
</script>

<template>
  <template v-if="actions.dialog">
    <SendsDialog v-if="actions.dialog.kind === 'sends'" :strips="actions.dialog.strips" @close="close" />
    <ReturnDialog
      v-else-if="actions.dialog.kind === 'return'"
      :strips="actions.dialog.strips"
      @close="close"
    />
    <RenameDialog
      v-else-if="actions.dialog.kind === 'rename'"
      :strips="actions.dialog.strips"
      @close="close"
    />
    <TidyDialog v-else @close="close" />
  </template>
</template>
