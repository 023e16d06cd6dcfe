<script setup lang="ts">
import { computed, ref } from 'vue';
import { useActions } from './actions';
import { keyName, keyShown } from './keys';
import { useSettings } from '@/session/settings';

const actions = useActions();
const settings = useSettings();
const changing = ref<string | null>(null);
const groups = computed(() =>
  ['Transport', 'Strips', 'Settings', 'Automation', 'Answers', 'Edit', 'Surface', 'View'].map((name) => ({
    name,
    list: actions.list.filter((a) => a.group === name),
  })),
);

function key(e: KeyboardEvent) {
  if (!changing.value) return;
  e.preventDefault();
  e.stopPropagation();
  if (['Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) return;
  const id = changing.value;
  changing.value = null;
  const keys = keyName(e);
  const next = { ...settings.shortcuts };
  // A key means one thing: who had it before has none.
  for (const a of actions.list) if (a.id !== id && actions.keysOf(a.id) === keys) next[a.id] = '';
  next[id] = keys;
  settings.shortcuts = next;
}
const SHEET: readonly [string, string][] = [
  ['Arrows', 'move over the Sheet'],
  ['Shift+← →', 'pick a range'],
  ['X', 'pick the strip, or not'],
  ['Enter', 'type a value, rename, open'],
  ['+ −', 'step by 0.5 dB; with Shift 0.1'],
  ['⌫', 'back to the default'],
  ['Del', 'remove a send, insert or strip'],
  ['F', 'tap of a send: post, pre, input'],
  ['B', 'bypass an insert, switch a send'],
  ['< >', 'pan of a send'],
  ['Shift+F10', 'menu of the cell'],
];
</script>

<template>
  <v-dialog v-model="actions.shortcuts" width="860" :transition="false">
    <div class="panel box" role="dialog" aria-label="Shortcuts" tabindex="-1" @keydown="key">
      <header>
        <b>Shortcuts</b>
        <span class="soft">Click one, then press the keys that it shall have.</span>
        <button class="plain boxed" @click="settings.shortcuts = {}">All as at first</button>
        <button class="plain" aria-label="Close" @click="actions.shortcuts = false">✕</button>
      </header>
      <div class="groups">
        <section v-for="g in groups" :key="g.name">
          <h2>{{ g.name }}</h2>
          <button v-for="a in g.list" :key="a.id" class="menu-item" @click="changing = a.id">
            <span>{{ a.title }}</span>
            <kbd>{{ changing === a.id ? 'press keys…' : keyShown(actions.keysOf(a.id)) || '—' }}</kbd>
          </button>
        </section>
        <section>
          <h2>On the Sheet</h2>
          <div v-for="[k, what] in SHEET" :key="k" class="menu-item still">
            <span>{{ what }}</span><kbd>{{ k }}</kbd>
          </div>
        </section>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  padding: 14px;
  max-height: 84vh;
  overflow-y: auto;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
}
header .soft {
  flex: 1;
}
.groups {
  columns: 2;
  column-gap: 24px;
  font-size: 13px;
}
section {
  break-inside: avoid;
  margin-top: 10px;
}
h2 {
  font-size: 13px;
  margin: 0 12px 2px;
  color: var(--ink-soft);
}
.menu-item {
  align-items: center;
  min-height: 24px;
}
.still {
  cursor: default;
}
</style>
