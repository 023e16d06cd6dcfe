<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue';
import { useRouter } from 'vue-router';
import { AUDIO_FILES } from '@/session/stems/audioNames';
import { isPackage } from '@/session/stems/filesWithin';
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
import { say } from './texts';

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
  { title: say('session'), key: 'name' },
  { title: say('strips'), key: 'strips', cellProps: { class: 'mono' } },
  { title: say('rate'), key: 'sampleRate', cellProps: { class: 'mono' } },
  { title: say('lastOpened'), key: 'openedAt' },
  { title: say('whatToDo'), key: 'do', sortable: false, align: 'end', headerProps: { class: 'unseen' } },
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
  name.value = files.length ? say('newSession') : '';
  making.value = true;
}
async function bring(files: readonly File[]) {
  const whole = await Promise.all(files.map(isPackage));
  const packages = files.filter((_, k) => whole[k]);
  const audio = files.filter((_, k) => !whole[k]);
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
      notices.done(say('nameWasBroughtIn', { name: made.name }));
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
    notices.done(say('nameWasDeleted', { name: gone.name }));
  } catch (error) {
    notices.refused(error);
  }
  await load();
}
const when = (iso: string) =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
</script>

<template>
  <DropZone class="zone overflow-y-auto" :text="say('letGoWavFilesBegin')" @files="bring">
    <main class="page">
      <header class="row border-b pb-3">
        <h1>{{ say('zonula') }}</h1>
        <p class="soft">{{ say('sessionsLastOpenedFirst') }}</p>
        <v-spacer />
        <v-btn @click="settings.otherTheme">{{
          settings.theme === 'night' ? say('day') : say('night')
        }}</v-btn>
        <v-btn variant="outlined" to="/machines">{{ say('otherMachines') }}</v-btn>
        <v-btn variant="outlined" @click="picker?.choose()">{{ say('import') }}</v-btn>
        <v-btn variant="flat" color="primary" @click="begin()">{{ say('newSession') }}</v-btn>
      </header>
      <div v-if="bringing" class="row bringing" role="status">
        <span>{{ say('importingName', { name: bringing.name }) }}</span>
        <v-progress-linear
          :model-value="bringing.share * 100"
          :indeterminate="bringing.share >= 1"
          :aria-label="say('progress')"
          max-width="200"
        />
        {{ bringing.share >= 1 ? say('storingItsStems') : `${Math.round(bringing.share * 100)} %` }}
        <v-btn v-if="bringing.share < 1" variant="outlined" @click="stopper?.abort()">{{
          say('cancel')
        }}</v-btn>
      </div>
      <v-skeleton-loader
        v-if="state === 'loading'"
        type="table-tbody"
        :aria-label="say('lookingForSessions')"
        role="status"
      />
      <v-empty-state v-else-if="state === 'failed'" :headline="say('sessionsCannotListed')" :text="reason">
        <template #actions
          ><v-btn variant="outlined" @click="load">{{ say('tryAgain') }}</v-btn></template
        >
      </v-empty-state>
      <v-empty-state
        v-else-if="!list.length"
        :headline="say('thereNoSessionYet')"
        :text="say('beginNewOneDropWav')"
      />
      <v-data-table v-else :items="list" :headers="HEADERS" item-value="id" hover @dblclick:row="opened">
        <template #[`item.name`]="{ item }">
          <RouterLink
            class="open font-weight-semibold text-decoration-none"
            :to="{ name: 'sheet', params: { id: item.id } }"
            >{{ item.name }}</RouterLink
          >
        </template>
        <template #[`item.sampleRate`]="{ item }">{{ item.sampleRate / 1000 }} kHz</template>
        <template #[`item.openedAt`]="{ item }">{{ when(item.openedAt) }}</template>
        <template #[`item.do`]="{ item }">
          <v-btn :href="`/api/sessions/${item.id}/export`" download>{{ say('export') }}</v-btn>
          <v-btn color="error" :aria-label="say('deleteName', { name: item.name })" @click="asking = item">{{
            say('delete')
          }}</v-btn>
        </template>
      </v-data-table>
      <p v-if="state === 'ready'" class="soft foot">{{ say('dropWavFilesAnywhereHere') }}</p>
      <FirstSteps v-if="state === 'ready'" />
    </main>
    <FilePick ref="picker" :label="say('files')" :accept="`.zonula,${AUDIO_FILES}`" multiple @files="bring" />
    <BoxDialog v-model="making" :title="say('newSession')" :width="420">
      <v-form id="new-session" v-model="fits" @submit.prevent="create">
        <label class="soft">
          {{ say('name') }}
          <v-text-field
            v-model="name"
            :rules="sessionName"
            validate-on="input lazy"
            :aria-label="say('name')"
            autofocus
            @focus="($event.target as HTMLInputElement).select()"
          />
        </label>
        <label class="soft">
          {{ say('sampleRate') }} <v-select v-model="rate" :items="RATES" :aria-label="say('sampleRate')" />
        </label>
      </v-form>
      <template #actions>
        <v-spacer />
        <v-btn variant="outlined" @click="making = false">{{ say('cancel') }}</v-btn>
        <v-btn
          variant="flat"
          color="primary"
          type="submit"
          form="new-session"
          :disabled="!name.trim() || fits === false"
          >{{ say('create') }}</v-btn
        >
      </template>
    </BoxDialog>
    <ConfirmDialog
      v-if="asking"
      :title="say('deleteName2', { name: asking.name })"
      :text="say('documentHistoryStemsNoOther')"
      :done="say('delete')"
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
