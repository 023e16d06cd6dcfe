import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { usePick } from '@/session/pick';
import { useSettings } from '@/session/settings';
import type { Panel } from './feature';

/** What the inspector shows, and whether it is there. */
export const useInspector = defineStore('inspector', () => {
  const settings = useSettings();
  const pick = usePick();
  const tab = ref<Panel['tab']>('strip');
  /** Opened by hand though nothing is picked. */
  const woken = ref(false);
  watch(
    () => pick.chosen,
    () => (woken.value = false),
  );
  /** Whether it has given its width back, as nothing is picked that it could speak of. */
  const resting = computed(
    () => settings.inspectorRests && tab.value === 'strip' && pick.chosen.size === 0 && !woken.value,
  );
  const open = computed(() => settings.inspector && !resting.value);
  /** Opens the inspector at a tab. */
  function show(next: Panel['tab']) {
    settings.inspector = true;
    tab.value = next;
    woken.value = true;
  }
  function toggle() {
    if (open.value) settings.inspector = false;
    else show(tab.value);
  }
  /** Lets it stand always, or only while something is picked. */
  function toggleRest() {
    settings.inspectorRests = !settings.inspectorRests;
    woken.value = false;
    if (settings.inspectorRests) settings.inspector = true;
  }
  return { tab, open, show, toggle, toggleRest };
});
