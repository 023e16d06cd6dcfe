<script setup lang="ts">
/** A line of a form: what it is about at the left, its fields beside it. */
defineProps<{ label: string }>();
</script>

<template>
  <div class="form-row pair ga-2 py-1 px-0 text">
    <span class="what soft pt-1">{{ label }}</span>
    <div class="fields d-flex flex-wrap align-center"><slot /></div>
  </div>
</template>

<style scoped>
.form-row {
  grid-template-columns: 96px 1fr;
}
.fields {
  gap: 6px 14px;
}
.fields :deep(.v-input) {
  flex: none;
}
</style>
