<script setup lang="ts">
import type { SendsRequest } from '@core/operations/sends';
import FormRow from '@/ui/FormRow.vue';
import { say } from './texts';

/** Whether sends are added, changed or removed; the last two where there are some. */
defineProps<{ there: boolean }>();
const action = defineModel<SendsRequest['action']>({ required: true });
</script>

<template>
  <FormRow :label="say('do')">
    <v-radio-group v-model="action" :aria-label="say('whatToDo')">
      <v-radio value="add" :label="say('addOrSet')" autofocus />
      <v-radio value="change" :label="say('change')" :disabled="!there" />
      <v-radio value="remove" :label="say('remove')" :disabled="!there" />
    </v-radio-group>
  </FormRow>
</template>
