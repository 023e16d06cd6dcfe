<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, defineAsyncComponent, onBeforeUnmount, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import DialogHost from '@/commands/DialogHost.vue';
import { features, fetchAll, setFeatures, views } from '@/commands/feature';
import { useInspector } from '@/commands/inspector';
import { isTyping, keyName } from '@/commands/keys';
import Palette from '@/commands/Palette.vue';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import ImportPanel from '@/session/stems/ImportPanel.vue';
import { useStemImport } from '@/session/stems/stemImport';
import PopMenu from '@/ui/PopMenu.vue';
import { FEATURES } from './features';
import Inspector from './Inspector.vue';
import TopLine from './TopLine.vue';
import TransportBar from './transport/TransportBar.vue';
import { say } from './texts';

const props = defineProps<{ id: string }>();
setFeatures(FEATURES);
for (const f of features()) f.setup?.();
const ShortcutsDialog = defineAsyncComponent(() => import('@/commands/ShortcutsDialog.vue'));
/** After the first picture there is time to fetch what may be asked for next. */
const LATER_MS = 1500;
const later = setTimeout(() => void fetchAll(), LATER_MS);
/** Whether the view has been drawn first: what stands around it follows. */
const drawn = ref(false);
const session = useSession();
const transport = useTransport();
const inspector = useInspector();
const pick = usePick();
const commands = useCommands();
const stems = useStemImport();
const route = useRoute();
const failed = ref<string | null>(null);
const view = computed(() => views().find((v) => v.name === route.name));
/** Before there are sources, what belongs to strips has nothing to say. */
const filled = computed(() => session.document?.strips.some((s) => s.kind === 'source') ?? false);
const has = (what: 'inspector' | 'picks') => filled.value && view.value?.around?.includes(what);
const bars = features().flatMap((f) => f.bars ?? []);
const trays = features().flatMap((f) => f.trays ?? []);

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
      requestAnimationFrame(() => setTimeout(() => (drawn.value = true)));
    } catch (error) {
      failed.value = (error as Error).message;
    }
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  clearTimeout(later);
  void transport.detach();
  session.close();
  document.title = say('zonula');
});

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.defaultPrevented || !session.document) return;
  // From a field the palette alone is in reach: all other keys belong to what is typed or chosen there.
  if (isTyping(e.target) && !(e.ctrlKey && keyName(e) === commands.keysOf('palette'))) return;
  // A focused button is pressed by Space, as everywhere.
  if (e.key === ' ' && e.target instanceof HTMLElement && ['BUTTON', 'A'].includes(e.target.tagName)) return;
  if (commands.press(e)) e.preventDefault();
});
useEventListener(window, 'beforeunload', (e: BeforeUnloadEvent) => {
  if (stems.busy) e.preventDefault();
});
</script>

<template>
  <div class="shell position-relative d-flex flex-column">
    <template v-if="session.document && !session.gone">
      <TopLine />
      <div class="middle flex-1-1-0 min-h-0 d-flex">
        <div class="work flex-1-1-0 min-w-0 d-flex flex-column">
          <RouterView />
          <template v-if="has('picks')">
            <component :is="bar" v-for="(bar, i) in bars" :key="i" />
          </template>
        </div>
        <template v-if="inspector.open && has('inspector')">
          <Inspector v-if="drawn" />
          <div v-else class="room flex-0-0 border-s" />
        </template>
      </div>
      <template v-if="drawn"><component :is="tray" v-for="(tray, i) in trays" :key="i" /></template>
      <TransportBar />
      <!-- There from the first moment: what is typed right after its key is meant for it. -->
      <Palette />
      <template v-if="drawn">
        <ImportPanel />
        <ShortcutsDialog />
        <DialogHost />
        <PopMenu />
      </template>
    </template>
    <v-empty-state
      v-else-if="failed || session.gone"
      :headline="session.gone ? say('sessionWasDeletedAnotherWindow') : say('sessionCannotOpened')"
      :text="failed ?? ''"
    >
      <template #actions>
        <v-btn variant="outlined" :to="{ name: 'sessions' }">{{ say('allSessions') }}</v-btn>
      </template>
    </v-empty-state>
    <div v-else class="wait soft" role="status">{{ say('openingTheSession') }}</div>
  </div>
</template>

<style scoped>
.shell {
  height: 100vh;
}
.room {
  width: 280px;
}
.wait {
  margin: auto;
}
</style>
