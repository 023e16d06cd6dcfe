<script setup lang="ts">
import NoticeQueue from '@/ui/NoticeQueue.vue';
import { useSettings } from '@/session/settings';

const settings = useSettings();
</script>

<template>
  <v-app :theme="settings.theme">
    <RouterView />
    <NoticeQueue />
  </v-app>
</template>
