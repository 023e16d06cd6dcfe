<script setup lang="ts">
import { ref } from 'vue';
import { useNotices } from '@/ui/notices';
import { useSession } from './session';

/** Edits that could not be kept: shown with their reasons, saved as a file, or thrown away. */
const session = useSession();
const notices = useNotices();
const shown = ref(false);

function save() {
  const file = new Blob(
    [
      JSON.stringify(
        { format: 'zonula-edits', version: 1, session: session.document?.name, edits: session.aside },
        null,
        2,
      ),
    ],
    { type: 'application/json' },
  );
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = `${session.document?.name ?? 'session'} edits.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
function discard() {
  const count = session.aside.length;
  session.discardAside();
  shown.value = false;
  notices.done(count === 1 ? 'The edit is discarded.' : `${count} edits are discarded.`);
}
</script>

<template>
  <v-btn
    v-if="session.aside.length"
    rounded="0"
    variant="outlined"
    density="compact"
    size="small"
    color="error"
    class="aside"
    @click="shown = true"
    >{{ session.aside.length }} not kept</v-btn
  >
  <v-dialog v-model="shown" width="560" :transition="false">
    <v-card title="Edits that could not be kept" rounded="0" class="card">
      <v-card-text>
        <p>Everything else is saved. Save these as a file to have what was meant, then make them anew.</p>
        <v-list density="compact" lines="two" class="list">
          <v-list-item
            v-for="a in session.aside"
            :key="a.change.changeId"
            :title="a.change.label"
            :subtitle="a.reason"
          />
        </v-list>
      </v-card-text>
      <v-card-actions>
        <v-btn rounded="0" variant="outlined" @click="discard">Discard</v-btn>
        <v-spacer />
        <v-btn rounded="0" @click="shown = false">Close</v-btn>
        <v-btn rounded="0" variant="flat" color="primary" autofocus @click="save">Save as file</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  border: 1px solid var(--rule);
}
.card :deep(*) {
  letter-spacing: normal;
}
.aside {
  text-transform: none;
  letter-spacing: 0;
}
.list {
  max-height: 40vh;
  overflow-y: auto;
}
.list :deep(.v-list-item-subtitle) {
  -webkit-line-clamp: 4;
  line-clamp: 4;
}
</style>
