<script setup lang="ts">
import { computed } from 'vue';
import { describe } from '@core/session/describe';
import type { Command } from '@core/session/commands/types';
import { useSession } from './session';

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
  <div class="preview" aria-live="polite">
    <p v-if="lines.refused" class="danger">{{ lines.refused }}</p>
    <p v-else-if="!lines.list.length" class="soft">Nothing would change.</p>
    <ul v-else>
      <li v-for="(l, i) in lines.list.slice(0, most)" :key="i">
        <b>{{ l.name }}</b> {{ l.text }}
      </li>
      <li v-if="lines.list.length > most" class="soft">and {{ lines.list.length - most }} more changes</li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 13px;
}
p {
  margin: 0;
  font-size: 13px;
}
li {
  padding: 1px 0;
}
</style>
