<script setup lang="ts">
import { computed, watch } from 'vue';
import { useDialogs } from './dialogs';
import { features } from './feature';

/** Shows the dialog that was asked for. */
const dialogs = useDialogs();
const known = new Map(features().flatMap((f) => Object.entries(f.dialogs ?? {})));
const dialog = computed(() => dialogs.open && known.get(dialogs.open.name)?.component);
watch(
  () => dialogs.open,
  async (open) => {
    const part = open && known.get(open.name);
    if (!part) return;
    // What cannot be fetched has nothing to give the keyboard to.
    await part.fetch().catch(() => {});
    // A dialog takes the keyboard within two pictures of being there.
    requestAnimationFrame(() => requestAnimationFrame(() => dialogs.open === open && dialogs.opened()));
  },
);
</script>

<template>
  <component :is="dialog" v-if="dialog" v-bind="dialogs.open!.props" @close="dialogs.close" />
</template>
