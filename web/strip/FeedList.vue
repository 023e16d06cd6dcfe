<script setup lang="ts">
import { useCommands } from '@/commands/commands';
import { useTargets } from '@/session/targets';
import type { Feed } from './stages';
import { say } from './texts';

/** What feeds a strip, and by what: a click picks it. */
defineProps<{ feeds: readonly Feed[] }>();
const { reveal } = useTargets();
const commands = useCommands();
</script>

<template>
  <section :aria-label="say('whatFeedsIt')" class="feeds border-t pt-1 mt-2 d-flex flex-column align-start">
    <h2>{{ say('fedBy') }}</h2>
    <v-btn variant="outlined" @click="commands.run('feeds')">{{ say('changeFeeds') }}</v-btn>
    <v-btn v-for="f in feeds" :key="`${f.id} ${f.by}`" class="name" @click="reveal(f.id)">
      {{ f.name }}&nbsp;<span class="soft">{{ f.by }}</span>
    </v-btn>
  </section>
</template>
