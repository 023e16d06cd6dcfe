<script setup lang="ts">
import { computed, ref } from 'vue';
import { pasteSettings, PART_NAMES, SETTINGS_PARTS, type SettingsPart } from '@core/settings/stripSettings';
import { useSettingsEdits } from './settingsEdits';
import FormRow from '@/ui/FormRow.vue';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import { say } from './texts';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const given = useSettingsEdits();
const parts = ref<SettingsPart[]>(['inserts']);
const result = computed(() => pasteSettings(session.document!, given.copied!, props.strips, parts.value));
</script>

<template>
  <EditDialog
    :title="
      say('pasteFromFromStripsStrip', { from: given.copied!.from, strips: strips.length }, strips.length)
    "
    :done="say('paste')"
    :label="say('settingsOfFrom', { from: given.copied!.from })"
    :make="() => result.commands"
    @close="emit('close')"
  >
    <FormRow :label="say('parts')" role="group" :aria-label="say('parts')">
      <v-checkbox v-for="p in SETTINGS_PARTS" :key="p" v-model="parts" :value="p" :label="PART_NAMES[p]" />
    </FormRow>
    <p v-for="l in new Set(result.left)" :key="l" class="caution">{{ say('leftOutNames', { names: l }) }}</p>
  </EditDialog>
</template>
