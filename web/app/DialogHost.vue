<script setup lang="ts">
import { useActions } from '@/commands/actions';
import { useSettingsGestures } from '@/strip/useSettingsGestures';
import InsertDialog from '@/inserts/InsertDialog.vue';
import LinkDialog from '@/strip/LinkDialog.vue';
import MoveToReturnDialog from '@/inserts/MoveToReturnDialog.vue';
import PasteDialog from '@/strip/PasteDialog.vue';
import PresetsDialog from '@/strip/presets/PresetsDialog.vue';
import RenameDialog from '@/strip/RenameDialog.vue';
import ReturnDialog from '@/strip/ReturnDialog.vue';
import SendsDialog from '@/strip/SendsDialog.vue';
import TidyDialog from '@/strip/TidyDialog.vue';

const actions = useActions();
const given = useSettingsGestures();
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
    <PasteDialog v-else-if="actions.dialog.kind === 'paste'" :strips="actions.dialog.strips" @close="close" />
    <PresetsDialog
      v-else-if="actions.dialog.kind === 'presets'"
      :strips="actions.dialog.strips"
      :insert="given.presetFor"
      @close="close"
    />
    <LinkDialog v-else-if="actions.dialog.kind === 'link'" :strips="actions.dialog.strips" @close="close" />
    <MoveToReturnDialog v-else-if="actions.dialog.kind === 'move'" :refs="given.moving" @close="close" />
    <InsertDialog v-else-if="actions.dialog.kind === 'insert'" @close="close" />
    <TidyDialog v-else @close="close" />
  </template>
</template>
