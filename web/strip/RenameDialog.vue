<script setup lang="ts">
import { ref } from 'vue';
import { renameStrips } from '@core/operations/tidy';
import EditDialog from '@/session/EditDialog.vue';
import { useSession } from '@/session/session';
import FormRow from '@/ui/FormRow.vue';
import { say } from './texts';

defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pattern = ref('* ');
const first = ref(1);
</script>

<template>
  <EditDialog
    :title="say('renameStripsStripsTitle', { strips: strips.length })"
    :done="say('renameTitle')"
    :label="say('renameStripsStrips', { strips: strips.length })"
    :make="() => renameStrips(session.document!, strips, pattern, first)"
    @close="emit('close')"
  >
    <FormRow :label="say('pattern')">
      <v-text-field v-model="pattern" :aria-label="say('pattern')" width="260" autofocus />
      <span>{{ say('firstNumber') }}</span>
      <v-number-input v-model="first" :aria-label="say('firstNumberTitle')" width="96" />
    </FormRow>
    <p class="soft">{{ say('numberOneTwoDigitsName') }}</p>
  </EditDialog>
</template>
