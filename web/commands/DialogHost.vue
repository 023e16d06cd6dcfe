<script setup lang="ts">
import { computed } from 'vue';
import { useDialogs } from './dialogs';
import { features } from './feature';

/** Shows the dialog that was asked for. */
const dialogs = useDialogs();
const known = new Map(features().flatMap((f) => Object.entries(f.dialogs ?? {})));
const dialog = computed(() => dialogs.open && known.get(dialogs.open.name)?.component);
</script>

<template>
  <component :is="dialog" v-if="dialog" v-bind="dialogs.open!.props" @close="dialogs.close" />
</template>
