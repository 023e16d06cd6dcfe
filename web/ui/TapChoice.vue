<script setup lang="ts">
import type { Tap } from '@core/session/types';

/** Where a send leaves its strip. */
defineProps<{ asItIs?: boolean }>();
const tap = defineModel<Tap | ''>({ required: true });
</script>

<template>
  <v-radio-group v-model="tap" aria-label="Tap">
    <v-radio v-if="asItIs" value="" label="as it is" />
    <v-radio value="post" label="post-fader" />
    <v-radio value="pre" label="pre-fader" />
    <v-radio value="input" label="input" />
  </v-radio-group>
</template>
