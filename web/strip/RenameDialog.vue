<script setup lang="ts">
import { ref } from 'vue';
import { renameStrips } from '@core/session/gestures/tidy';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pattern = ref('* ');
const first = ref(1);
</script>

<template>
  <EditDialog
    :title="`Rename ${props.strips.length} strips`"
    done="Rename"
    :label="`rename ${props.strips.length} strips`"
    :make="() => renameStrips(session.document!, props.strips, pattern, first)"
    @close="emit('close')"
  >
    <div class="row">
      <span>Pattern</span>
      <input v-model="pattern" class="field" aria-label="Pattern" size="30" />
      <label
        >first number
        <input
          v-model.number="first"
          class="field mono"
          type="number"
          aria-label="First number"
          style="width: 80px"
      /></label>
    </div>
    <p class="soft"># is a number, ## one of two digits, * the name that a strip has.</p>
  </EditDialog>
</template>
