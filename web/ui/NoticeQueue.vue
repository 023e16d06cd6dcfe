<script setup lang="ts">
import { useNotices } from './notices';

const notices = useNotices();
</script>

<template>
  <div class="notices" aria-live="polite">
    <div
      v-for="n in notices.list"
      :key="n.id"
      class="panel notice"
      :class="n.kind"
      :role="n.kind === 'refused' ? 'alert' : 'status'"
    >
      <span>{{ n.text }}</span>
      <button class="plain" aria-label="Close" @click="notices.close(n.id)">✕</button>
    </div>
  </div>
</template>

<style scoped>
.notices {
  position: fixed;
  left: 50%;
  bottom: 104px;
  transform: translateX(-50%);
  display: flex;
  flex-direction: column;
  gap: 6px;
  z-index: 3000;
  max-width: 640px;
}
.notice {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 6px 6px 14px;
  border-left: 4px solid var(--signal);
}
.notice.refused {
  border-left-color: var(--alert);
}
</style>
