<script setup lang="ts">
import { computed } from 'vue';
import { processorOf } from '@core/processors/registry';
import { insertOf, type InsertRef } from '@core/session/gestures/inserts';
import { moveToReturn } from '@core/session/gestures/moveToReturn';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import EditDialog from '@/session/EditDialog.vue';

const props = defineProps<{ refs: readonly InsertRef[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const { reveal } = useTargets();
const pick = usePick();
const name = computed(() => {
  const [first] = props.refs;
  return first ? processorOf(insertOf(session.document!, first.strip, first.id).type).name : 'Effect';
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
    :title="`${name} to a new return`"
    done="Move"
    :label="`${name} to a return`"
    :make="() => moveToReturn(session.document!, refs).commands"
    @did="((pick.insert = null), moved && reveal(moved.made))"
    @close="emit('close')"
  >
    <p v-if="moved && !moved.differences.length" class="same signal">
      The sum stays as it was: the same parameters, fully wet, at the level of the dry share.
    </p>
    <p v-for="d in moved?.differences ?? []" :key="d" class="caution">{{ d }}</p>
  </EditDialog>
</template>
