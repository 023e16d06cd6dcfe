<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef } from 'vue';
import { decibelsOf, levelText } from '@core/levels/decibels';
import { nameOf } from '@core/session/lookup';
import { printStrips, type PrintedFile } from '@/audio/printing';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';

const session = useSession();
const transport = useTransport();
const pick = usePick();
const notices = useNotices();
const what = ref<'outputs' | 'submixes' | 'picked'>('outputs');
const seconds = ref<number | null>(null);
const share = ref<number | null>(null);
const files = shallowRef<readonly (PrintedFile & { url: string })[]>([]);
let stopper: AbortController | null = null;

const strips = computed(() => {
  const all = session.document?.strips ?? [];
  if (what.value === 'picked') return pick.picked;
  return all.filter((s) => s.kind === (what.value === 'outputs' ? 'output' : 'submix')).map((s) => s.id);
});
const length = computed(() => seconds.value ?? transport.length);

async function run() {
  if (!session.document || !strips.value.length) return;
  forget();
  stopper = new AbortController();
  share.value = 0;
  try {
    const rate = session.document.sampleRate;
    const printed = await printStrips(
      session.document,
      session.stems,
      strips.value,
      Math.round(length.value * rate),
      (s) => (share.value = s),
      stopper.signal,
    );
    files.value = printed.map((f) => ({ ...f, url: URL.createObjectURL(f.file) }));
  } catch (error) {
    if ((error as Error).name !== 'AbortError') notices.refused(error);
  }
  share.value = null;
}
function forget() {
  for (const f of files.value) URL.revokeObjectURL(f.url);
  files.value = [];
}
onBeforeUnmount(() => {
  stopper?.abort();
  forget();
});
const size = (bytes: number) => `${(bytes / 2 ** 20).toFixed(1)} MiB`;
</script>

<template>
  <main class="view">
    <h1>Print</h1>
    <p class="soft">
      From time 0, through the engine that plays: 32-bit float WAV at the session's rate. The command line
      gives the same samples.
    </p>
    <form @submit.prevent="run">
      <fieldset>
        <legend>What</legend>
        <label><input v-model="what" type="radio" value="outputs" /> Outputs</label>
        <label><input v-model="what" type="radio" value="submixes" /> Submixes</label>
        <label
          ><input v-model="what" type="radio" value="picked" :disabled="!pick.picked.length" /> The
          {{ pick.picked.length || '' }} picked strips</label
        >
      </fieldset>
      <label class="length"
        >Length in seconds
        <input
          v-model.number="seconds"
          class="field mono"
          type="number"
          min="0.1"
          step="any"
          :placeholder="transport.length.toFixed(2)"
      /></label>
      <p v-if="!strips.length" class="soft">
        There is nothing of this kind to print. Gather some strips into a submix first, or print the outputs.
      </p>
      <p v-else-if="transport.length === 0 && !seconds" class="soft">
        The session has no stems yet: bring some in, or say how many seconds to print.
      </p>
      <div class="buttons">
        <button v-if="share === null" class="plain primary" :disabled="!strips.length || !(length > 0)">
          Print {{ strips.length }} {{ strips.length === 1 ? 'file' : 'files' }}
        </button>
        <template v-else>
          <progress :value="share" max="1" aria-label="Progress" />
          <span class="mono">{{ Math.round(share * 100) }} %</span>
          <button type="button" class="plain boxed" @click="stopper?.abort()">Stop</button>
        </template>
      </div>
    </form>
    <table v-if="files.length">
      <thead>
        <tr class="soft">
          <th>Strip</th>
          <th>Channels</th>
          <th>Peak</th>
          <th>Size</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in files" :key="f.strip">
          <td>{{ nameOf(session.document!, f.strip) }}</td>
          <td class="mono">{{ f.channels }}</td>
          <td class="mono" :class="{ danger: f.peak > 1 }">{{ levelText(decibelsOf(f.peak)) }} dBFS</td>
          <td class="mono">{{ size(f.file.size) }}</td>
          <td>
            <a class="plain boxed save" :href="f.url" :download="`${f.strip}.wav`">Save {{ f.strip }}.wav</a>
          </td>
        </tr>
      </tbody>
    </table>
  </main>
</template>

<style scoped>
.view {
  flex: 1;
  overflow-y: auto;
  padding: 24px 32px;
  max-width: 900px;
}
h1 {
  font-size: 22px;
  margin: 0;
}
form {
  display: flex;
  flex-direction: column;
  gap: 12px;
  margin: 16px 0;
}
fieldset {
  display: flex;
  gap: 20px;
  border: 1px solid var(--rule);
  padding: 8px 14px;
}
.length {
  display: flex;
  align-items: center;
  gap: 10px;
}
.length .field {
  width: 120px;
}
.buttons {
  display: flex;
  gap: 12px;
  align-items: center;
}
.primary {
  padding: 0 18px;
  min-height: 34px;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 8px;
  border-top: 1px solid var(--rule);
}
.save {
  display: inline-flex;
  align-items: center;
  text-decoration: none;
}
</style>
