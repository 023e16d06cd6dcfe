<script setup lang="ts">
import { computed, ref } from 'vue';
import BoxDialog from '@/ui/BoxDialog.vue';
import KeyHint from '@/ui/KeyHint.vue';
import { useCommands } from './commands';
import { ACTION_GROUPS, groupTitle } from './feature';
import { keyName, keyShown } from './keys';
import { say } from './texts';

/** All keys of the page and of its parts: click one, press what it shall have. */
const commands = useCommands();
const changing = ref<string | null>(null);
const words = ref('');
const groups = computed(() => {
  const all: readonly { name: string; list: readonly { id: string; title: string }[] }[] = [
    ...ACTION_GROUPS.map((name) => ({
      name: groupTitle(name),
      list: commands.list.filter((a) => a.group === name),
    })),
    ...commands.scopes.map((s) => ({ name: s.title, list: s.keys })),
  ];
  const asked = words.value.toLowerCase();
  return all
    .map((g) => ({ ...g, list: g.list.filter((x) => x.title.toLowerCase().includes(asked)) }))
    .filter((g) => g.list.length);
});
function key(e: KeyboardEvent) {
  if (!changing.value) return;
  e.preventDefault();
  e.stopPropagation();
  if (['Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) return;
  commands.setKeys(changing.value, keyName(e));
  changing.value = null;
}
const shown = (id: string) =>
  changing.value === id ? say('pressKeys') : keyShown(commands.keysOf(id)) || '—';
</script>

<template>
  <BoxDialog v-model="commands.shortcuts" :title="say('shortcuts')" :width="860" @keydown.capture="key">
    <template #head>
      <v-text-field
        v-model="words"
        class="find flex-0-0"
        :placeholder="say('find')"
        :aria-label="say('findAShortcut')"
        hide-details
        clearable
        @click:clear="words = ''"
      />
      <v-btn variant="outlined" @click="commands.resetKeys">{{ say('resetAll') }}</v-btn>
    </template>
    <p class="soft">{{ say('clickOneThenPressKeys') }}</p>
    <div class="groups">
      <v-list v-for="g in groups" :key="g.name" bg-color="transparent" :aria-label="g.name">
        <v-list-subheader :title="g.name" />
        <v-list-item v-for="a in g.list" :key="a.id" role="button" @click="changing = a.id">
          {{ a.title }}
          <template #append><KeyHint :keys="shown(a.id)" /></template>
        </v-list-item>
      </v-list>
    </div>
  </BoxDialog>
</template>

<style scoped>
.find {
  width: 180px;
}
.groups {
  columns: 2;
  column-gap: 24px;
}
.groups .v-list {
  break-inside: avoid;
}
.v-list.v-list--density-compact .v-list-item {
  min-height: 24px;
}
.v-list-subheader {
  min-height: 24px;
}
</style>
