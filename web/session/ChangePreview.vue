<script setup lang="ts">
import { computed } from 'vue';
import { describe } from '@core/edits/describe';
import type { Command } from '@core/edits/commands';
import { useSession } from './session';
import { say } from './texts';

/** What an edit would change, line by line, before it is done. */
const props = withDefaults(defineProps<{ commands: readonly Command[]; most?: number }>(), { most: 12 });
const session = useSession();
const lines = computed(() => {
  if (!session.document) return { list: [], refused: null };
  try {
    return { list: describe(session.document, props.commands), refused: null };
  } catch (error) {
    return { list: [], refused: (error as Error).message };
  }
});
</script>

<template>
  <div aria-live="polite">
    <p v-if="lines.refused" class="text-error">{{ lines.refused }}</p>
    <p v-else-if="!lines.list.length" class="soft">{{ say('nothingWouldChange') }}</p>
    <v-list v-else bg-color="transparent" class="lines">
      <v-list-item v-for="(l, i) in lines.list.slice(0, most)" :key="i">
        <b>{{ l.name }}</b> {{ l.text }}
      </v-list-item>
      <v-list-item v-if="lines.list.length > most" class="soft">{{
        say('andListMoreChanges', { list: lines.list.length - most })
      }}</v-list-item>
    </v-list>
  </div>
</template>

<style scoped>
.lines.v-list .v-list-item {
  min-height: 20px;
  padding: 1px 0;
}
</style>
