<script setup lang="ts">
import { useTargets } from '@/session/targets';
import type { Feed } from './stages';
import { say } from './texts';

/** What feeds a strip, and by what: a click picks it. */
defineProps<{ feeds: readonly Feed[] }>();
const { reveal } = useTargets();
</script>

<template>
  <section :aria-label="say('whatFeedsIt')" class="feeds border-t pt-1 mt-2 d-flex flex-column align-start">
    <h2>{{ say('fedBy') }}</h2>
    <v-btn v-for="f in feeds" :key="`${f.id} ${f.by}`" class="name" @click="reveal(f.id)">
      {{ f.name }}&nbsp;<span class="soft">{{ f.by }}</span>
    </v-btn>
  </section>
</template>
