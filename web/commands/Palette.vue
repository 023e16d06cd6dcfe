<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { useCommands } from './commands';
import { groupTitle } from './feature';
import { keyShown } from './keys';
import { kindWord } from '@/session/words';
import { say } from './texts';

/** Finds strips, families and actions by their words. */
const commands = useCommands();
const session = useSession();
const pick = usePick();
const { reveal } = useTargets();
const route = useRoute();
const router = useRouter();
const words = ref('');
const at = ref(0);
const MOST = 60;

interface Found {
  readonly key: string;
  readonly title: string;
  readonly note: string;
  readonly colour: string;
  readonly run: () => void;
}
const found = computed<readonly Found[]>(() => {
  const asked = words.value.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (text: string) => asked.every((w) => text.toLowerCase().includes(w));
  const all = asked.length ? (session.document?.strips ?? []) : [];
  const strips = all
    .filter((s) => fits(`${s.name} ${s.family} ${s.kind}`))
    .map((s) => ({
      key: `strip ${s.id}`,
      title: s.name || s.id,
      note: s.hidden ? say('kindHidden', { kind: kindWord(s.kind) }) : kindWord(s.kind),
      colour: s.colour,
      run: () => {
        if (s.hidden)
          session.commit(say('showName', { name: s.name }), [
            { type: 'strip.set', id: s.id, patch: { hidden: false } },
          ]);
        if (route.name !== 'sheet') void router.push({ name: 'sheet' });
        reveal(s.id);
      },
    }));
  const families = [...new Set(all.map((s) => s.family).filter(Boolean))]
    .filter((f) => fits(say('pickFamilyF', { f })))
    .map((f) => ({
      key: `family ${f}`,
      title: say('pickTheFamilyF', { f }),
      note: '',
      colour: all.find((s) => s.family === f)?.colour ?? '',
      run: () => pick.set(pick.order.filter((id) => session.strip(id)?.family === f)),
    }));
  const actions = commands.list
    .filter((a) => a.id !== 'palette' && a.enabled?.() !== false && fits(`${a.title} ${groupTitle(a.group)}`))
    .map((a) => ({
      key: a.id,
      title: a.title,
      note: keyShown(commands.keysOf(a.id)),
      colour: '',
      run: () => void a.run(),
    }));
  return [...strips, ...families, ...actions].slice(0, MOST);
});

watch(
  () => commands.palette,
  (open) => {
    if (!open) {
      // The next key is meant for the page, also while the dialog is still going.
      const at = document.activeElement;
      if (at instanceof HTMLElement && at.closest('.palette')) at.blur();
      return;
    }
    words.value = '';
    at.value = 0;
  },
);
watch(words, () => (at.value = 0));

function key(e: KeyboardEvent) {
  e.stopPropagation();
  const last = found.value.length - 1;
  if (e.key === 'ArrowDown' || e.key === 'Tab') at.value = Math.min(last, at.value + 1);
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1);
  else if (e.key === 'Enter') run(found.value[at.value]);
  else if (e.key === 'Escape') commands.palette = false;
  else return;
  e.preventDefault();
  void nextTick(() => document.getElementById(`found-${at.value}`)?.scrollIntoView({ block: 'nearest' }));
}
function run(f: Found | undefined) {
  if (!f) return;
  commands.palette = false;
  f.run();
}
// What is typed while the dialog is still appearing is meant for it.
useEventListener(
  window,
  'keydown',
  (e) => {
    if (!commands.palette || (e.target as Element).closest?.('.palette input')) return;
    if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey) {
      words.value += e.key;
      e.preventDefault();
      e.stopPropagation();
    } else key(e);
  },
  { capture: true },
);
</script>

<template>
  <v-dialog
    v-model="commands.palette"
    width="560"
    location="top"
    location-strategy="static"
    :aria-label="say('finder')"
    class="palette"
  >
    <v-card>
      <v-text-field
        v-model="words"
        class="words mt-2 mx-2 mb-1 flex-0-0"
        :placeholder="say('stripsNameDo')"
        :aria-label="say('findStripAction')"
        aria-controls="found"
        :aria-activedescendant="found[at] ? `found-${at}` : undefined"
        hide-details
        autofocus
        @keydown="key"
      />
      <v-list id="found" class="found overflow-y-auto" role="listbox" :aria-label="say('found')">
        <v-list-item
          v-for="(f, i) in found"
          :id="`found-${i}`"
          :key="f.key"
          role="option"
          tabindex="-1"
          :aria-selected="i === at"
          :active="i === at"
          @click="run(f)"
        >
          <i class="swatch me-2" :style="{ background: f.colour || 'transparent' }" />{{ f.title }}
          <template #append
            ><span class="soft mono">{{ f.note }}</span></template
          >
        </v-list-item>
        <v-list-item v-if="!found.length" class="soft" role="option" aria-selected="false">{{
          say('nothingNamedSoTryFewer')
        }}</v-list-item>
      </v-list>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.palette :deep(.v-overlay__content) {
  margin: 64px auto auto;
}
.found {
  max-height: 50vh;
}
.swatch {
  display: inline-block;
  width: 10px;
  height: 10px;
}
</style>
