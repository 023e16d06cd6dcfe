<script setup lang="ts">
import { computed } from 'vue';
import { useDialogs } from './dialogs';
import { features } from './feature';

/** Shows the dialog that was asked for. */
const dialogs = useDialogs();
const known = Object.assign({}, ...features().map((f) => f.dialogs ?? {}));
const dialog = computed(() => (dialogs.open ? known[dialogs.open.name] : undefined));
</script>

<template>
  <component :is="dialog" v-if="dialog" v-bind="dialogs.open!.props" @close="dialogs.close" />
</template>
