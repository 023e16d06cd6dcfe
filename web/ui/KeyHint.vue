<script setup lang="ts">
/** Keys, as they are shown: `Ctrl+K`. */
defineProps<{ keys: string }>();
</script>

<template>
  <v-kbd v-if="keys">{{ keys }}</v-kbd>
</template>
