<script setup lang="ts">
import type { Tap } from '@core/session/types';
import { say } from './texts';

/** Where a send leaves its strip. */
defineProps<{ asItIs?: boolean }>();
const tap = defineModel<Tap | ''>({ required: true });
</script>

<template>
  <v-radio-group v-model="tap" :aria-label="say('tap')">
    <v-radio v-if="asItIs" value="" :label="say('asItIs')" />
    <v-radio value="post" :label="say('postFader')" />
    <v-radio value="pre" :label="say('preFader')" />
    <v-radio value="input" :label="say('input')" />
  </v-radio-group>
</template>
