import { defineStore } from 'pinia';
import { ref } from 'vue';
import { useSettings } from '@/session/settings';
import type { Panel } from './feature';

/** What the inspector shows. */
export const useInspector = defineStore('inspector', () => {
  const settings = useSettings();
  const tab = ref<Panel['tab']>('strip');
  /** Opens the inspector at a tab. */
  function show(next: Panel['tab']) {
    settings.inspector = true;
    tab.value = next;
  }
  return { tab, show };
});
