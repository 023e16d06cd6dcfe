<script setup lang="ts">
/** A line of a form: what it is about at the left, its fields beside it. */
defineProps<{ label: string }>();
</script>

<template>
  <div class="form-row">
    <span class="what">{{ label }}</span>
    <div class="fields"><slot /></div>
  </div>
</template>

<style scoped>
.form-row {
  display: grid;
  grid-template-columns: 96px 1fr;
  gap: 8px;
  padding: 4px 0;
  font-size: 13px;
}
.what {
  color: var(--ink-soft);
  padding-top: 5px;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.fields :deep(.v-input) {
  flex: none;
}
</style>
