<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useRouter } from 'vue-router';
import { filesOf, useStemImport } from '@/session/stems/stemImport';
import { useSettings } from '@/session/settings';
import { useNotices } from '@/ui/notices';
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
const over = ref(false);
const bringing = ref<{ name: string; share: number } | null>(null);
const picker = ref<HTMLInputElement | null>(null);
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
    try {
      const made = await upload<{ id: string; name: string }>(
        '/sessions/import',
        file,
        (share) => (bringing.value = { name: file.name, share }),
      );
      notices.done(`“${made.name}” was brought in.`);
    } catch (error) {
      notices.refused(`${file.name}: ${(error as Error).message}`);
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
/** The dialog takes the focus when it opens; its first field has it next. */
const selectSoon = ({ el }: { el: unknown }) => setTimeout(() => (el as HTMLInputElement).select(), 50);
const when = (iso: string) =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
function chosen(e: Event) {
  const input = e.target as HTMLInputElement;
  void bring([...(input.files ?? [])]);
  input.value = '';
}
</script>

<template>
  <main
    class="page"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="((over = false), bring(filesOf($event.dataTransfer)))"
  >
    <header>
      <h1>Zonula</h1>
      <p class="soft">Sessions, last opened first</p>
      <span class="space" />
      <button class="plain" @click="settings.theme = settings.theme === 'night' ? 'day' : 'night'">
        {{ settings.theme === 'night' ? 'Day' : 'Night' }}
      </button>
      <button class="plain boxed" @click="picker?.click()">Import…</button>
      <button class="plain primary" @click="begin()">New session</button>
    </header>
    <div v-if="bringing" class="bringing" role="status">
      Bringing in {{ bringing.name }} <progress :value="bringing.share" max="1" />
      {{ bringing.share >= 1 ? 'storing its stems…' : `${Math.round(bringing.share * 100)} %` }}
    </div>
    <p v-if="state === 'loading'" class="soft">Looking for sessions…</p>
    <div v-else-if="state === 'failed'" class="nothing">
      <p class="danger">{{ reason }}</p>
      <button class="plain boxed" @click="load">Try again</button>
    </div>
    <div v-else-if="!list.length" class="nothing">
      <p>
        There is no session yet. Make a new one, drop WAV files here, or import a session package (.zonula).
      </p>
    </div>
    <table v-else>
      <thead>
        <tr class="soft">
          <th>Session</th>
          <th>Strips</th>
          <th>Rate</th>
          <th>Last opened</th>
          <th><span class="offscreen">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in list" :key="s.id" @dblclick="open(s.id)">
          <td>
            <RouterLink :to="{ name: 'sheet', params: { id: s.id } }">{{ s.name }}</RouterLink>
          </td>
          <td class="mono">{{ s.strips }}</td>
          <td class="mono">{{ s.sampleRate / 1000 }} kHz</td>
          <td>{{ when(s.openedAt) }}</td>
          <td class="do">
            <a class="plain" :href="`/api/sessions/${s.id}/export`" download>Export</a>
            <button class="plain danger" :aria-label="`Delete ${s.name}`" @click="asking = s">Delete</button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="state === 'ready'" class="soft foot">
      Drop WAV files anywhere here to begin a session with them, or a .zonula package to open it.
    </p>
    <div v-if="over" class="over">Let go: WAV files begin a new session, a package is brought in</div>
    <input
      ref="picker"
      class="offscreen"
      type="file"
      accept=".zonula,.zip,.wav,audio/wav"
      multiple
      tabindex="-1"
      aria-label="Files"
      @change="chosen"
    />

    <v-dialog v-model="making" width="420" :transition="false">
      <form class="panel box" @submit.prevent="create">
        <b>New session</b>
        <label
          >Name <input v-model="name" class="field" required maxlength="200" @vue:mounted="selectSoon"
        /></label>
        <label>
          Sample rate
          <select v-model.number="rate" class="field">
            <option v-for="r in [44100, 48000, 88200, 96000]" :key="r" :value="r">{{ r / 1000 }} kHz</option>
          </select>
        </label>
        <div class="buttons">
          <button type="button" class="plain boxed" @click="making = false">Not now</button>
          <button class="plain primary" :disabled="!name.trim()">Make it</button>
        </div>
      </form>
    </v-dialog>
    <v-dialog
      :model-value="asking !== null"
      width="440"
      :transition="false"
      @update:model-value="$event || (asking = null)"
    >
      <div v-if="asking" class="panel box" role="alertdialog" aria-label="Delete the session?">
        <b>Delete “{{ asking.name }}”?</b>
        <p>
          Its document, its history and the stems that no other session uses go for good. Export it first if
          you may want it again.
        </p>
        <div class="buttons">
          <button class="plain boxed" autofocus @click="asking = null">Keep it</button>
          <button class="plain boxed danger" @click="remove">Delete</button>
        </div>
      </div>
    </v-dialog>
  </main>
</template>

<style scoped>
.page {
  position: relative;
  height: 100vh;
  overflow-y: auto;
  padding: 36px max(24px, calc((100vw - 980px) / 2));
}
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 12px;
}
h1 {
  font-size: 26px;
  margin: 0;
}
header p {
  margin: 0;
}
.space {
  flex: 1;
}
.primary {
  padding: 0 14px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  font-size: 13px;
  padding: 10px 8px;
}
td {
  border-top: 1px solid var(--rule);
  padding: 10px 8px;
}
tbody tr:hover {
  background: var(--sheet);
}
td a:not(.plain) {
  color: var(--ink);
  font-size: 17px;
  font-weight: 600;
  text-decoration: none;
}
td a:not(.plain):hover {
  color: var(--signal);
}
.do {
  text-align: right;
  white-space: nowrap;
}
.do a {
  text-decoration: none;
}
.nothing,
.bringing {
  padding: 24px 8px;
}
.foot {
  font-size: 13px;
  padding: 8px;
}
.over {
  position: fixed;
  inset: 12px;
  display: grid;
  place-items: center;
  border: 2px dashed var(--signal);
  background: color-mix(in srgb, var(--ground) 85%, transparent);
  font-size: 20px;
  pointer-events: none;
}
.box {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 18px;
}
.box p {
  margin: 0;
}
.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
