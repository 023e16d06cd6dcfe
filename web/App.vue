<script setup lang="ts">
import NoticeList from './components/shell/NoticeList.vue';
import { useSettings } from './stores/settings';

const settings = useSettings();
</script>

<template>
  <v-app :theme="settings.theme">
    <RouterView />
    <NoticeList />
  </v-app>
</template>
