<script setup lang="ts">
import { ref } from 'vue';
import BoxDialog from '@/ui/BoxDialog.vue';
import { useNotices } from '@/ui/notices';
import { saveFile } from '@/ui/saveFile';
import { useSession } from './session';
import { say } from './texts';

/** Edits that could not be kept: shown with their reasons, saved as a file, or thrown away. */
const session = useSession();
const notices = useNotices();
const shown = ref(false);

function save() {
  const name = session.document?.name;
  const edits = { format: 'zonula-edits', version: 1, session: name, edits: session.aside };
  saveFile(`${name ?? 'session'} edits.json`, 'application/json', JSON.stringify(edits, null, 2));
}
function discard() {
  const count = session.aside.length;
  session.discardAside();
  shown.value = false;
  notices.done(count === 1 ? say('theEditIsDiscarded') : say('countEditsAreDiscarded', { count }));
}
</script>

<template>
  <v-btn v-if="session.aside.length" variant="outlined" color="error" @click="shown = true">{{
    say('asideNotKept', { aside: session.aside.length })
  }}</v-btn>
  <BoxDialog v-model="shown" :title="say('editsCouldNotKept')">
    <p>{{ say('everythingElseSavedSaveThese') }}</p>
    <v-list lines="two" class="list overflow-y-auto">
      <v-list-item
        v-for="a in session.aside"
        :key="a.change.changeId"
        :title="a.change.label"
        :subtitle="a.reason"
      />
    </v-list>
    <template #actions>
      <v-btn variant="outlined" @click="discard">{{ say('discard') }}</v-btn>
      <v-spacer />
      <v-btn @click="shown = false">{{ say('close') }}</v-btn>
      <v-btn variant="flat" color="primary" autofocus @click="save">{{ say('saveAsFile') }}</v-btn>
    </template>
  </BoxDialog>
</template>

<style scoped>
.list {
  max-height: 40vh;
}
.list :deep(.v-list-item-subtitle) {
  -webkit-line-clamp: 4;
  line-clamp: 4;
}
</style>
