<script setup lang="ts">
import { ref } from 'vue';
import { LINK_PARTS } from '@core/session/defaults';
import { linkStrips } from '@core/operations/links';
import { nameOf } from '@core/session/lookup';
import type { LinkPart } from '@core/session/types';
import { useSession } from '@/session/session';
import { linkPartNames } from './linkParts';
import EditDialog from '@/session/EditDialog.vue';
import * as rules from '@/session/rules';
import FormRow from '@/ui/FormRow.vue';
import { say } from './texts';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const NAMES = linkPartNames();
const name = ref('');
const parts = ref<LinkPart[]>(['fader', 'mute', 'solo']);
const keeps = ref(true);
const make = () =>
  linkStrips(session.document!, props.strips, {
    ...(name.value.trim() ? { name: name.value.trim() } : {}),
    parts: parts.value,
    keeps: keeps.value,
  }).commands;
</script>

<template>
  <EditDialog
    :title="say('linkStripsStripsTitle', { strips: strips.length })"
    :done="say('link')"
    :label="say('linkStripsStrips', { strips: strips.length })"
    :make="make"
    @close="emit('close')"
  >
    <FormRow :label="say('nameTitle')">
      <v-text-field
        v-model="name"
        :placeholder="
          say('nameAndStripsMore', { name: nameOf(session.document!, strips[0]!), strips: strips.length - 1 })
        "
        :rules="rules.name"
        :aria-label="say('nameOfTheLink')"
        width="300"
        autofocus
      />
    </FormRow>
    <FormRow :label="say('parts')" role="group" :aria-label="say('linkedParts')">
      <v-checkbox v-for="p in LINK_PARTS" :key="p" v-model="parts" :value="p" :label="NAMES[p]" />
    </FormRow>
    <FormRow :label="say('values')">
      <v-radio-group v-model="keeps" :aria-label="say('values')">
        <v-radio :value="true" :label="say('differencesAreKept')" />
        <v-radio :value="false" :label="say('allAlike')" />
      </v-radio-group>
    </FormRow>
    <p class="soft">{{ say('doneOneDoneAllBoth') }}</p>
  </EditDialog>
</template>
