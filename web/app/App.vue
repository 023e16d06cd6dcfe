<script setup lang="ts">
import NoticeList from '@/ui/NoticeQueue.vue';
import { useSettings } from '@/session/settings';

const settings = useSettings();
</script>

<template>
  <v-app :theme="settings.theme">
    <RouterView />
    <NoticeList />
  </v-app>
</template>
