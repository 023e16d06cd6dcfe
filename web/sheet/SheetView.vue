<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useActions } from '@/commands/actions';
import Inspector from '@/strip/StripPanel.vue';
import CompareBar from '@/inserts/CompareBar.vue';
import PickBar from '@/strip/PickBar.vue';
import SheetGrid from './SheetGrid.vue';
import { filesOf, useStemImport } from '@/session/stems/stemImport';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';

const session = useSession();
const settings = useSettings();
const stems = useStemImport();
const over = ref(false);
const picker = ref<HTMLInputElement | null>(null);
const empty = computed(
  () => session.document !== null && !session.document.strips.some((s) => s.kind === 'source'),
);

const actions = useActions();
watch(
  () => actions.choosing,
  () => picker.value?.click(),
);

function drop(e: DragEvent) {
  over.value = false;
  void stems.bring(filesOf(e.dataTransfer));
}
function chosen(e: Event) {
  const input = e.target as HTMLInputElement;
  void stems.bring([...(input.files ?? [])]);
  input.value = '';
}
</script>

<template>
  <div class="view" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="drop">
    <div class="main">
      <SheetGrid v-if="!empty" />
      <div v-else class="empty">
        <h1>This session has no stems yet</h1>
        <p>
          Drop WAV files here, many at once. Names, families and colours are taken from the file names; you
          can change them all later.
        </p>
        <button class="plain primary" @click="picker?.click()">Choose WAV files…</button>
        <p class="soft">PCM of 16, 24 or 32 bits, or 32-bit float; mono or stereo; any common sample rate.</p>
      </div>
      <CompareBar />
      <PickBar v-if="!empty" />
    </div>
    <Inspector v-if="settings.inspector && !empty" @add-stems="picker?.click()" />
    <div v-if="over" class="over">Let go to bring these files in as strips</div>
    <input
      ref="picker"
      class="offscreen"
      type="file"
      accept=".wav,audio/wav"
      multiple
      tabindex="-1"
      aria-label="WAV files"
      @change="chosen"
    />
  </div>
</template>

<style scoped>
.view {
  position: relative;
  display: flex;
  flex: 1;
  min-height: 0;
}
.main {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.empty {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 12px;
  background: var(--sheet);
  text-align: center;
}
.empty p {
  max-width: 460px;
  margin: 0;
}
.empty h1 {
  font-size: 22px;
  margin: 0;
}
.primary {
  min-height: 36px;
  padding: 0 18px;
}
.over {
  position: absolute;
  inset: 8px;
  display: grid;
  place-items: center;
  border: 2px dashed var(--signal);
  background: color-mix(in srgb, var(--ground) 80%, transparent);
  font-size: 20px;
  pointer-events: none;
  z-index: 10;
}
</style>
