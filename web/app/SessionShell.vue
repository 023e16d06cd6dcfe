<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { onBeforeUnmount, ref, watch } from 'vue';
import { useActions } from '@/commands/actions';
import { isTyping } from '@/commands/keys';
import ImportPanel from '@/session/stems/ImportPanel.vue';
import DialogHost from './DialogHost.vue';
import PopMenu from '@/ui/PopMenu.vue';
import Palette from '@/commands/Palette.vue';
import ShortcutsDialog from '@/commands/ShortcutsDialog.vue';
import TopLine from './TopLine.vue';
import TransportBar from './transport/TransportBar.vue';
import { useAutomation } from '@/session/automation/automation';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { usePreamps } from '@/session/preamps';
import { useTransport } from '@/audio/transport';
import { useSurface } from '@/surface/useSurface';
import { useStemImport } from '@/session/stems/stemImport';

const props = defineProps<{ id: string }>();
const session = useSession();
const transport = useTransport();
// What the document says of the preamplifier is asked of it, whatever is on screen.
usePreamps();
// What hands do to armed strips is written, whatever is on screen.
useAutomation();
const pick = usePick();
const surface = useSurface();
const actions = useActions();
const stems = useStemImport();
const failed = ref<string | null>(null);

watch(
  () => props.id,
  async (id) => {
    failed.value = null;
    pick.none();
    pick.focus = null;
    await transport.detach();
    try {
      await session.open(id);
      document.title = `${session.document?.name} · Zonula`;
      transport.attach();
      surface.reset();
      // Views that need something large get it while nothing is asked for.
      setTimeout(() => void import('@/flow/layout').then((flow) => flow.warmUp()), 2500);
    } catch (error) {
      failed.value = (error as Error).message;
    }
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  void transport.detach();
  session.close();
  document.title = 'Zonula';
});

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.defaultPrevented || isTyping(e.target) || !session.document) return;
  // A focused button is pressed by Space, as everywhere.
  if (e.key === ' ' && e.target instanceof HTMLElement && ['BUTTON', 'A'].includes(e.target.tagName)) return;
  if (actions.press(e)) e.preventDefault();
});
useEventListener(window, 'beforeunload', (e: BeforeUnloadEvent) => {
  if (stems.busy) e.preventDefault();
});
</script>

<template>
  <div class="shell">
    <template v-if="session.document && !session.gone">
      <TopLine />
      <RouterView />
      <TransportBar />
      <ImportPanel />
      <Palette />
      <ShortcutsDialog />
      <DialogHost />
      <PopMenu :menu="actions.menu" @close="actions.menu = null" />
    </template>
    <div v-else class="wait">
      <template v-if="failed || session.gone">
        <h1>
          {{ session.gone ? 'This session was deleted in another window' : 'The session cannot be opened' }}
        </h1>
        <p>{{ failed }}</p>
        <RouterLink :to="{ name: 'sessions' }" class="plain boxed">All sessions</RouterLink>
      </template>
      <p v-else class="soft">Opening the session…</p>
    </div>
  </div>
</template>

<style scoped>
.shell {
  position: relative;
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.wait {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 8px;
}
h1 {
  font-size: 20px;
}
</style>
