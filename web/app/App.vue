<script setup lang="ts">
import NoticeQueue from '@/ui/NoticeQueue.vue';
import { useDialogs } from '@/commands/dialogs';
import { useSettings } from '@/session/settings';

const settings = useSettings();
const dialogs = useDialogs();
</script>

<template>
  <v-app :theme="settings.theme">
    <RouterView />
    <NoticeQueue :dialog="dialogs.open !== null" />
  </v-app>
</template>
