<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { useEventListener } from '@vueuse/core';
import { say } from './texts';

/** A dialog with a title, what it is about, and what to do. */
withDefaults(
  defineProps<{
    title: string;
    width?: number;
    role?: 'dialog' | 'alertdialog';
    label?: string;
    scrim?: boolean;
  }>(),
  { width: 560, role: 'dialog', label: undefined, scrim: true },
);
const open = defineModel<boolean>({ default: true });
// Where what had the keyboard has gone, Escape closes it all the same.
useEventListener(window, 'keydown', (e) => {
  if (e.key !== 'Escape' || !open.value || document.activeElement !== document.body) return;
  open.value = false;
  e.stopPropagation();
});
</script>

<template>
  <v-dialog v-model="open" :width="width" :role="role" :aria-label="label ?? title" :scrim="scrim">
    <v-card>
      <v-card-title class="head d-flex align-center ga-3 pt-3 px-5 pb-1">
        <span>{{ title }}</span>
        <slot name="head" />
        <v-spacer />
        <v-btn :icon="mdiClose" :aria-label="say('close')" @click="open = false" />
      </v-card-title>
      <v-card-text class="pt-1 px-5 pb-3"><slot /></v-card-text>
      <v-card-actions v-if="$slots.actions" class="pt-2 px-5 pb-4 ga-2 min-h-0"
        ><slot name="actions"
      /></v-card-actions>
    </v-card>
  </v-dialog>
</template>
