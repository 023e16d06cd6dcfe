<script setup lang="ts">
import { ref } from 'vue';
import { LINK_PARTS } from '@core/session/defaults';
import { linkStrips } from '@core/session/gestures/links';
import { nameOf } from '@core/session/lookup';
import type { LinkPart } from '@core/session/types';
import { useSession } from '@/session/session';
import { LINK_PART_NAMES } from './linkParts';
import EditDialog from '@/session/EditDialog.vue';

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
    done="Link them"
    :label="`link ${strips.length} strips`"
    :make="make"
    @close="emit('close')"
  >
    <div class="row">
      <span>Name</span>
      <input
        v-model="name"
        class="field"
        :placeholder="`${nameOf(session.document!, strips[0]!)} and ${strips.length - 1} more`"
        aria-label="Name of the link"
      />
    </div>
    <div class="row" role="group" aria-label="Linked parts">
      <span>Parts</span>
      <label v-for="p in LINK_PARTS" :key="p"
        ><input v-model="parts" type="checkbox" :value="p" /> {{ LINK_PART_NAMES[p] }}</label
      >
    </div>
    <div class="row" role="radiogroup" aria-label="Values">
      <span>Values</span>
      <label><input v-model="keeps" type="radio" :value="true" /> differences are kept</label>
      <label><input v-model="keeps" type="radio" :value="false" /> all alike</label>
    </div>
    <p class="soft">What is done to one is done to all, in both directions. Hold Alt to move one alone.</p>
  </EditDialog>
</template>
