<script setup lang="ts">
import { ref } from 'vue';
import BoxDialog from '@/ui/BoxDialog.vue';
import { useNotices } from '@/ui/notices';
import { saveFile } from '@/ui/saveFile';
import { useSession } from './session';

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
  notices.done(count === 1 ? 'The edit is discarded.' : `${count} edits are discarded.`);
}
</script>

<template>
  <v-btn v-if="session.aside.length" variant="outlined" color="error" @click="shown = true"
    >{{ session.aside.length }} not kept</v-btn
  >
  <BoxDialog v-model="shown" title="Edits that could not be kept">
    <p>Everything else is saved. Save these as a file to have what was meant, then make them anew.</p>
    <v-list lines="two" class="list overflow-y-auto">
      <v-list-item
        v-for="a in session.aside"
        :key="a.change.changeId"
        :title="a.change.label"
        :subtitle="a.reason"
      />
    </v-list>
    <template #actions>
      <v-btn variant="outlined" @click="discard">Discard</v-btn>
      <v-spacer />
      <v-btn @click="shown = false">Close</v-btn>
      <v-btn variant="flat" color="primary" autofocus @click="save">Save as file</v-btn>
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
