<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, watch } from 'vue';
import { useDialogs } from './dialogs';
import { features } from './feature';

/** Shows the dialog that was asked for. */
const dialogs = useDialogs();
const known = new Map(features().flatMap((f) => Object.entries(f.dialogs ?? {})));
const dialog = computed(() => dialogs.open && known.get(dialogs.open.name)?.component);
useEventListener(window, 'keydown', (e) => dialogs.opening && dialogs.type(e), { capture: true });

/** Pictures that a field has to take the keyboard. */
const PICTURES = 60;
function arrive(open: typeof dialogs.open, left = PICTURES) {
  if (dialogs.open !== open) return;
  if (dialogs.give() || left === 0) dialogs.opened();
  else requestAnimationFrame(() => arrive(open, left - 1));
}
watch(
  () => dialogs.open,
  async (open) => {
    const part = open && known.get(open.name);
    if (!part) return;
    // What cannot be fetched has nothing to give the keyboard to.
    await part.fetch().catch(() => {});
    // A dialog takes the keyboard within two pictures of being there; a field in it, to be typed in, a little later.
    requestAnimationFrame(() => requestAnimationFrame(() => arrive(open)));
  },
);
</script>

<template>
  <component :is="dialog" v-if="dialog" v-bind="dialogs.open!.props" @close="dialogs.close" />
</template>
