<script setup lang="ts">
import { computed, ref } from 'vue';
import { useCommands } from '@/commands/commands';
import { useSettings, type KeptView } from '@/session/settings';
import BoxDialog from '@/ui/BoxDialog.vue';
import { useNotices } from '@/ui/notices';
import { SHIPPED, useSheetView } from './sheetView';
import { say } from './texts';

/** Views of the Sheet: those that Zonula comes with, and those that were kept. */
const settings = useSettings();
const view = useSheetView();
const notices = useNotices();
const commands = useCommands();
const name = ref('');
const shipped = [
  { name: say('balancing'), id: 'viewBalancing', view: SHIPPED[0]! },
  { name: say('routing'), id: 'viewRouting', view: SHIPPED[1]! },
];
const lines = computed(() => [
  ...shipped.map((s) => ({ ...s, keys: commands.keysOf(s.id), kept: false })),
  ...settings.views.map((v) => ({ name: v.name, keys: '', view: v as Partial<KeptView>, kept: true })),
]);
function look(to: Partial<KeptView>) {
  view.choosing = false;
  view.look(to);
}
function keep() {
  const called = name.value.trim();
  if (!called) return;
  view.keep(called);
  view.choosing = false;
  notices.done(say('viewKept', { name: called }));
}
</script>

<template>
  <BoxDialog v-model="view.choosing" :title="say('viewsTitle')" :width="440">
    <p class="soft">{{ say('viewsAbout') }}</p>
    <v-list bg-color="transparent">
      <v-list-item
        v-for="line in lines"
        :key="`${line.kept} ${line.name}`"
        :title="line.name"
        :aria-label="say('lookName', { name: line.name })"
        @click="look(line.view)"
      >
        <template #append>
          <span v-if="line.keys" class="mono soft">{{ line.keys }}</span>
          <v-btn
            v-if="line.kept"
            variant="outlined"
            :aria-label="say('forgetName', { name: line.name })"
            @click.stop="view.forget(line.name)"
            @keydown.stop
            >{{ say('forget') }}</v-btn
          >
        </template>
      </v-list-item>
    </v-list>
    <v-form class="d-flex ga-2 align-center pt-2" @submit.prevent="keep">
      <v-text-field
        v-model="name"
        :placeholder="say('nameOfTheView')"
        :aria-label="say('nameOfTheView')"
        maxlength="40"
        hide-details
      />
      <v-btn type="submit" variant="flat" color="primary" :disabled="!name.trim()">{{
        say('keepItAsNow')
      }}</v-btn>
    </v-form>
  </BoxDialog>
</template>
