<script setup lang="ts">
import { ref } from 'vue';
import { LINK_PARTS } from '@core/session/defaults';
import { linkStrips } from '@core/session/gestures/links';
import { nameOf } from '@core/session/lookup';
import type { LinkPart } from '@core/session/types';
import { useSession } from '@/session/session';
import { LINK_PART_NAMES } from './linkParts';
import EditDialog from '@/session/EditDialog.vue';
import * as rules from '@/session/rules';
import FormRow from '@/ui/FormRow.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
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
    :title="`Link ${strips.length} strips`"
    done="Link"
    :label="`link ${strips.length} strips`"
    :make="make"
    @close="emit('close')"
  >
    <FormRow label="Name">
      <v-text-field
        v-model="name"
        :placeholder="`${nameOf(session.document!, strips[0]!)} and ${strips.length - 1} more`"
        :rules="rules.name"
        aria-label="Name of the link"
        width="300"
        autofocus
      />
    </FormRow>
    <FormRow label="Parts" role="group" aria-label="Linked parts">
      <v-checkbox v-for="p in LINK_PARTS" :key="p" v-model="parts" :value="p" :label="LINK_PART_NAMES[p]" />
    </FormRow>
    <FormRow label="Values">
      <v-radio-group v-model="keeps" aria-label="Values">
        <v-radio :value="true" label="differences are kept" />
        <v-radio :value="false" label="all alike" />
      </v-radio-group>
    </FormRow>
    <p class="soft">What is done to one is done to all, in both directions. Hold Alt to move one alone.</p>
  </EditDialog>
</template>
