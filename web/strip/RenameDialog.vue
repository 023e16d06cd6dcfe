<script setup lang="ts">
import { ref } from 'vue';
import { renameStrips } from '@core/session/gestures/tidy';
import EditDialog from '@/session/EditDialog.vue';
import { useSession } from '@/session/session';
import FormRow from '@/ui/FormRow.vue';

defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pattern = ref('* ');
const first = ref(1);
</script>

<template>
  <EditDialog
    :title="`Rename ${strips.length} strips`"
    done="Rename"
    :label="`rename ${strips.length} strips`"
    :make="() => renameStrips(session.document!, strips, pattern, first)"
    @close="emit('close')"
  >
    <FormRow label="Pattern">
      <v-text-field v-model="pattern" aria-label="Pattern" width="260" autofocus />
      <span>first number</span>
      <v-number-input v-model="first" aria-label="First number" width="96" />
    </FormRow>
    <p class="soft"># is a number, ## one of two digits, * the name that a strip has.</p>
  </EditDialog>
</template>
