<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue';
import { useRouter } from 'vue-router';
import { useStemImport } from '@/session/stems/stemImport';
import { sessionName } from '@/session/rules';
import { useSettings } from '@/session/settings';
import BoxDialog from '@/ui/BoxDialog.vue';
import ConfirmDialog from '@/ui/ConfirmDialog.vue';
import DropZone from '@/ui/DropZone.vue';
import FilePick from '@/ui/FilePick.vue';
import { useNotices } from '@/ui/notices';
import FirstSteps from './FirstSteps.vue';
import { ask, upload } from '@/session/sync/api';

interface Summary {
  readonly id: string;
  readonly name: string;
  readonly strips: number;
  readonly sampleRate: number;
  readonly openedAt: string;
}

const router = useRouter();
const notices = useNotices();
const settings = useSettings();
const stems = useStemImport();
const list = ref<readonly Summary[]>([]);
const state = ref<'loading' | 'ready' | 'failed'>('loading');
const reason = ref('');
const asking = ref<Summary | null>(null);
const making = ref(false);
const name = ref('');
const rate = ref(48000);
/** Whether the form keeps its rules; null before it was looked at. */
const fits = ref<boolean | null>(null);
const bringing = ref<{ name: string; share: number } | null>(null);
const picker = useTemplateRef('picker');
let stopper: AbortController | null = null;
const RATES = [44100, 48000, 88200, 96000].map((value) => ({ title: `${value / 1000} kHz`, value }));
const HEADERS = [
  { title: 'Session', key: 'name' },
  { title: 'Strips', key: 'strips', cellProps: { class: 'mono' } },
  { title: 'Rate', key: 'sampleRate', cellProps: { class: 'mono' } },
  { title: 'Last opened', key: 'openedAt' },
  { title: 'What to do', key: 'do', sortable: false, align: 'end', headerProps: { class: 'unseen' } },
] as const;
const opened = (_: Event, { item }: { item: Summary }) => open(item.id);
let waitingFiles: File[] = [];

async function load() {
  try {
    list.value = (await ask<{ sessions: Summary[] }>('GET', '/sessions')).sessions;
    state.value = 'ready';
  } catch (error) {
    state.value = 'failed';
    reason.value = (error as Error).message;
  }
}
onMounted(load);

const open = (id: string) => router.push({ name: 'sheet', params: { id } });
async function create() {
  try {
    const made = await ask<{ id: string }>('POST', '/sessions', {
      name: name.value.trim(),
      sampleRate: rate.value,
    });
    const files = waitingFiles;
    making.value = false;
    waitingFiles = [];
    await open(made.id);
    if (files.length) {
      // The session opens first, then its files come in.
      const { useSession } = await import('@/session/session');
      const session = useSession();
      for (let i = 0; i < 100 && session.id !== made.id; i++) await new Promise((r) => setTimeout(r, 50));
      void stems.bring(files);
    }
  } catch (error) {
    notices.refused(error);
  }
}
function begin(files: File[] = []) {
  waitingFiles = files;
  name.value = files.length ? 'New session' : '';
  making.value = true;
}
async function bring(files: readonly File[]) {
  const packages = files.filter((f) => /\.(zonula|zip)$/i.test(f.name));
  const audio = files.filter((f) => !/\.(zonula|zip)$/i.test(f.name));
  for (const file of packages) {
    bringing.value = { name: file.name, share: 0 };
    stopper = new AbortController();
    try {
      const made = await upload<{ id: string; name: string }>(
        '/sessions/import',
        file,
        (share) => (bringing.value = { name: file.name, share }),
        stopper.signal,
      );
      notices.done(`“${made.name}” was brought in.`);
    } catch (error) {
      if (!stopper.signal.aborted) notices.refused(`${file.name}: ${(error as Error).message}`);
    }
    bringing.value = null;
    await load();
  }
  if (audio.length) begin(audio);
}
async function remove() {
  const gone = asking.value!;
  asking.value = null;
  try {
    await ask('DELETE', `/sessions/${gone.id}`);
    notices.done(`“${gone.name}” was deleted.`);
  } catch (error) {
    notices.refused(error);
  }
  await load();
}
const when = (iso: string) =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
</script>

<template>
  <DropZone
    class="zone overflow-y-auto"
    text="Let go: WAV files begin a new session, a package is brought in"
    @files="bring"
  >
    <main class="page">
      <header class="row border-b pb-3">
        <h1>Zonula</h1>
        <p class="soft">Sessions, last opened first</p>
        <span class="space" />
        <v-btn @click="settings.otherTheme">{{ settings.theme === 'night' ? 'Day' : 'Night' }}</v-btn>
        <v-btn variant="outlined" @click="picker?.choose()">Import…</v-btn>
        <v-btn variant="flat" color="primary" @click="begin()">New session</v-btn>
      </header>
      <div v-if="bringing" class="row bringing" role="status">
        <span>Importing {{ bringing.name }}</span>
        <v-progress-linear
          :model-value="bringing.share * 100"
          :indeterminate="bringing.share >= 1"
          aria-label="Progress"
          max-width="200"
        />
        {{ bringing.share >= 1 ? 'storing its stems…' : `${Math.round(bringing.share * 100)} %` }}
        <v-btn v-if="bringing.share < 1" variant="outlined" @click="stopper?.abort()">Cancel</v-btn>
      </div>
      <v-skeleton-loader
        v-if="state === 'loading'"
        type="table-tbody"
        aria-label="Looking for sessions…"
        role="status"
      />
      <v-empty-state v-else-if="state === 'failed'" headline="The sessions cannot be listed" :text="reason">
        <template #actions><v-btn variant="outlined" @click="load">Try again</v-btn></template>
      </v-empty-state>
      <v-empty-state
        v-else-if="!list.length"
        headline="There is no session yet"
        text="Begin a new one, drop WAV files here, or import a session package (.zonula)."
      />
      <v-data-table v-else :items="list" :headers="HEADERS" item-value="id" hover @dblclick:row="opened">
        <template #[`item.name`]="{ item }">
          <RouterLink
            class="open strong text-decoration-none"
            :to="{ name: 'sheet', params: { id: item.id } }"
            >{{ item.name }}</RouterLink
          >
        </template>
        <template #[`item.sampleRate`]="{ item }">{{ item.sampleRate / 1000 }} kHz</template>
        <template #[`item.openedAt`]="{ item }">{{ when(item.openedAt) }}</template>
        <template #[`item.do`]="{ item }">
          <v-btn :href="`/api/sessions/${item.id}/export`" download>Export</v-btn>
          <v-btn color="error" :aria-label="`Delete ${item.name}`" @click="asking = item">Delete</v-btn>
        </template>
      </v-data-table>
      <p v-if="state === 'ready'" class="soft foot">
        Drop WAV files anywhere here to begin a session with them, or a .zonula package to open it.
      </p>
      <FirstSteps v-if="state === 'ready'" />
    </main>
    <FilePick ref="picker" label="Files" accept=".zonula,.zip,.wav,audio/wav" multiple @files="bring" />
    <BoxDialog v-model="making" title="New session" :width="420">
      <v-form id="new-session" v-model="fits" @submit.prevent="create">
        <label class="soft">
          Name
          <v-text-field
            v-model="name"
            :rules="sessionName"
            validate-on="input lazy"
            aria-label="Name"
            autofocus
            @focus="($event.target as HTMLInputElement).select()"
          />
        </label>
        <label class="soft">
          Sample rate
          <v-select v-model="rate" :items="RATES" aria-label="Sample rate" />
        </label>
      </v-form>
      <template #actions>
        <v-spacer />
        <v-btn variant="outlined" @click="making = false">Cancel</v-btn>
        <v-btn
          variant="flat"
          color="primary"
          type="submit"
          form="new-session"
          :disabled="!name.trim() || fits === false"
          >Create</v-btn
        >
      </template>
    </BoxDialog>
    <ConfirmDialog
      v-if="asking"
      :title="`Delete “${asking.name}”?`"
      text="Its document, its history and the stems that no other session uses go for good. Export it first if you may want it again."
      done="Delete"
      @close="asking = null"
      @confirm="remove"
    />
  </DropZone>
</template>

<style scoped>
.zone {
  height: 100vh;
}
.page {
  padding: 36px max(24px, calc((100vw - 980px) / 2));
}
h1 {
  font-size: 26px;
}
.open {
  color: var(--ink);
  font-size: 17px;
}
.open:hover {
  color: var(--signal);
}
.v-table {
  --v-table-row-height: 42px;
}
.v-table :deep(.unseen) {
  color: transparent !important;
}
.bringing,
.foot {
  padding: 8px;
  font-size: 13px;
}
form {
  display: grid;
  gap: 10px;
}
</style>
