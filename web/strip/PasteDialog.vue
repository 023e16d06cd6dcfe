<script setup lang="ts">
import { computed, ref } from 'vue';
import { pasteSettings, PART_NAMES, SETTINGS_PARTS, type SettingsPart } from '@core/settings/stripSettings';
import { useSettingsGestures } from './settingsGestures';
import FormRow from '@/ui/FormRow.vue';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const given = useSettingsGestures();
const parts = ref<SettingsPart[]>(['inserts']);
const result = computed(() => pasteSettings(session.document!, given.copied!, props.strips, parts.value));
</script>

<template>
  <EditDialog
    :title="`Paste from ${given.copied!.from} on ${strips.length} ${strips.length === 1 ? 'strip' : 'strips'}`"
    done="Paste"
    :label="`settings of ${given.copied!.from}`"
    :make="() => result.commands"
    @close="emit('close')"
  >
    <FormRow label="Parts" role="group" aria-label="Parts">
      <v-checkbox v-for="p in SETTINGS_PARTS" :key="p" v-model="parts" :value="p" :label="PART_NAMES[p]" />
    </FormRow>
    <p v-for="l in new Set(result.left)" :key="l" class="caution">Left out: {{ l }}</p>
  </EditDialog>
</template>
