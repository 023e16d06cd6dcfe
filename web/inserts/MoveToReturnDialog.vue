<script setup lang="ts">
import { computed } from 'vue';
import { processorOf } from '@core/processors/registry';
import { insertOf, type InsertRef } from '@core/operations/inserts';
import { moveToReturn } from '@core/operations/moveToReturn';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import EditDialog from '@/session/EditDialog.vue';
import { say } from './texts';

const props = defineProps<{ refs: readonly InsertRef[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const { reveal } = useTargets();
const pick = usePick();
const name = computed(() => {
  const [first] = props.refs;
  return first ? processorOf(insertOf(session.document!, first.strip, first.id).type).name : say('effect');
});
const moved = computed(() => {
  try {
    return moveToReturn(session.document!, props.refs);
  } catch {
    return null;
  }
});
</script>

<template>
  <EditDialog
    :title="say('nameNewReturn', { name })"
    :done="say('move')"
    :label="say('nameToAReturn', { name })"
    :make="() => moveToReturn(session.document!, refs).commands"
    @did="((pick.insert = null), moved && reveal(moved.made))"
    @close="emit('close')"
  >
    <p v-if="moved && !moved.differences.length" class="same signal">{{ say('sumStaysAsWasSame') }}</p>
    <p v-for="d in moved?.differences ?? []" :key="d" class="caution">{{ d }}</p>
  </EditDialog>
</template>
