<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useActions } from './actions';
import { keyShown } from './keys';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';

const actions = useActions();
const session = useSession();
const pick = usePick();
const route = useRoute();
const router = useRouter();
const words = ref('');
const at = ref(0);
const field = ref<HTMLInputElement | null>(null);

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
  const strips = (session.document?.strips ?? [])
    .filter((s) => asked.length > 0 && fits(`${s.name} ${s.family} ${s.kind}`))
    .map((s) => ({
      key: `strip ${s.id}`,
      title: s.name || s.id,
      note: s.hidden ? `${s.kind}, hidden` : s.kind,
      colour: s.colour,
      run: () => {
        if (s.hidden)
          session.commit(`show ${s.name}`, [{ type: 'strip.set', id: s.id, patch: { hidden: false } }]);
        if (route.name !== 'sheet') void router.push({ name: 'sheet' });
        actions.reveal(s.id);
      },
    }));
  const families = [...new Set((session.document?.strips ?? []).map((s) => s.family).filter(Boolean))]
    .filter((f) => asked.length > 0 && fits(`pick family ${f}`))
    .map((f) => ({
      key: `family ${f}`,
      title: `Pick the family ${f}`,
      note: '',
      colour: session.document?.strips.find((s) => s.family === f)?.colour ?? '',
      run: () => pick.set(pick.order.filter((id) => session.strip(id)?.family === f)),
    }));
  const list = actions.list
    .filter((a) => a.id !== 'palette' && a.enabled?.() !== false && fits(`${a.title} ${a.group}`))
    .map((a) => ({
      key: a.id,
      title: a.title,
      note: keyShown(actions.keysOf(a.id)),
      colour: '',
      run: a.run,
    }));
  return [...strips, ...families, ...list].slice(0, 60);
});
// Drawn by itself, not in a dialog that appears a moment later: what is typed after Ctrl+K must not be lost.
let before: HTMLElement | null = null;
watch(
  () => actions.palette,
  (open) => {
    if (open) {
      before = document.activeElement as HTMLElement | null;
      words.value = '';
      at.value = 0;
    } else before?.focus?.({ preventScroll: true });
  },
);
watch(field, (el) => el?.focus(), { flush: 'post' });
watch(words, () => (at.value = 0));
function key(e: KeyboardEvent) {
  e.stopPropagation();
  if (e.key === 'ArrowDown') at.value = Math.min(found.value.length - 1, at.value + 1);
  else if (e.key === 'ArrowUp') at.value = Math.max(0, at.value - 1);
  else if (e.key === 'Enter') run(found.value[at.value]);
  else if (e.key === 'Escape') actions.palette = false;
  else if (e.key === 'Tab') at.value = Math.min(found.value.length - 1, at.value + 1);
  else return;
  e.preventDefault();
  void nextTick(() => document.querySelector('.found .at')?.scrollIntoView({ block: 'nearest' }));
}
function run(f: Found | undefined) {
  if (!f) return;
  actions.palette = false;
  f.run();
}
</script>

<template>
  <div v-if="actions.palette" class="veil" @pointerdown.self="actions.palette = false">
    <div class="panel box" role="dialog" aria-modal="true" aria-label="Finder">
      <input
        ref="field"
        v-model="words"
        class="field"
        placeholder="A strip's name, or what to do"
        aria-label="Find a strip or an action"
        aria-controls="found"
        :aria-activedescendant="found[at] ? `found-${at}` : undefined"
        @keydown="key"
      />
      <ul id="found" class="found" role="listbox" aria-label="Found">
        <li
          v-for="(f, i) in found"
          :id="`found-${i}`"
          :key="f.key"
          role="option"
          :aria-selected="i === at"
          class="menu-item"
          :class="{ at: i === at }"
          @click="run(f)"
        >
          <span><i class="swatch" :style="{ background: f.colour || 'transparent' }" />{{ f.title }}</span>
          <span class="soft mono">{{ f.note }}</span>
        </li>
        <li v-if="!found.length" class="nothing soft">Nothing is named so. Try fewer letters.</li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 2500;
  background: color-mix(in srgb, var(--ground) 55%, transparent);
}
.box {
  width: 560px;
  max-width: 92vw;
  margin: 64px auto 0;
  padding: 10px;
}
.field {
  min-height: 36px;
}
.found {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 50vh;
  overflow-y: auto;
}
.menu-item {
  align-items: center;
  font-size: 13px;
}
.swatch {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-right: 8px;
}
.nothing {
  padding: 8px 12px;
}
</style>
