<script setup lang="ts">
import BoxDialog from './BoxDialog.vue';
import { say } from './texts';

/** Asks before something is done that cannot be taken back. */
defineProps<{ title: string; text: string; done: string }>();
const emit = defineEmits<{ confirm: []; close: [] }>();
</script>

<template>
  <BoxDialog :title="title" :width="440" role="alertdialog" @update:model-value="$event || emit('close')">
    <p>{{ text }}</p>
    <template #actions>
      <v-spacer />
      <v-btn variant="outlined" autofocus @click="emit('close')">{{ say('cancel') }}</v-btn>
      <v-btn variant="outlined" color="error" @click="emit('confirm')">{{ done }}</v-btn>
    </template>
  </BoxDialog>
</template>
