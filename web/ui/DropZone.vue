<script setup lang="ts">
import { fromEvent } from 'file-selector';
import { ref } from 'vue';

/** A part of the page that takes files that are dropped on it. */
defineProps<{ text: string }>();
const emit = defineEmits<{ files: [files: File[]] }>();
const over = ref(false);
/** Folders are looked through, to the files in them. */
async function drop(e: DragEvent) {
  over.value = false;
  emit('files', (await fromEvent(e)) as File[]);
}
</script>

<template>
  <div
    class="position-relative"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <slot />
    <div v-if="over" class="over position-absolute">{{ text }}</div>
  </div>
</template>

<style scoped>
.over {
  inset: 8px;
  display: grid;
  place-items: center;
  border: 2px dashed var(--signal);
  background: color-mix(in srgb, var(--ground) 82%, transparent);
  font-size: 20px;
  pointer-events: none;
  z-index: 10;
}
</style>
