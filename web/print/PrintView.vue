<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef } from 'vue';
import { decibelsOf, levelText } from '@core/levels/decibels';
import type { PrintReading } from '@core/metering/printMeter';
import { nameOf } from '@core/session/lookup';
import { printStrips, type PrintedFile } from '@/audio/printing';
import { useNotices } from '@/ui/notices';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import FormRow from '@/ui/FormRow.vue';
import { say } from './texts';

const session = useSession();
const transport = useTransport();
const pick = usePick();
const notices = useNotices();
const what = ref<'outputs' | 'submixes' | 'picked'>('outputs');
const seconds = ref<number | null>(null);
const tail = ref(false);
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
      tail.value,
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
const HEADERS = [
  { title: say('strip'), key: 'strip' },
  { title: say('channels'), key: 'channels', cellProps: { class: 'mono' } },
  { title: say('length'), key: 'frames', cellProps: { class: 'mono' } },
  { title: say('peak'), key: 'peak', cellProps: { class: 'mono' } },
  { title: say('truePeak'), key: 'reading.truePeakDb', cellProps: { class: 'mono' } },
  { title: say('loudness'), key: 'reading.integrated', cellProps: { class: 'mono' } },
  { title: say('range'), key: 'reading.range', cellProps: { class: 'mono' } },
  { title: say('size'), key: 'size', cellProps: { class: 'mono' } },
  { title: '', key: 'do', sortable: false, align: 'end' },
] as const;
const mostOf = (r: PrintReading) =>
  say('mostOf', { momentary: levelText(r.maxMomentary), short: levelText(r.maxShortTerm) });
const size = (bytes: number) => `${(bytes / 2 ** 20).toFixed(1)} MiB`;
</script>

<template>
  <main class="view flex-1-1-0 overflow-y-auto py-6 px-8">
    <h1>{{ say('print') }}</h1>
    <p class="soft">{{ say('fromTime0ThroughEngine') }}</p>
    <v-form @submit.prevent="run">
      <FormRow :label="say('what')">
        <v-radio-group v-model="what" :aria-label="say('what')">
          <v-radio value="outputs" :label="say('outputs')" />
          <v-radio value="submixes" :label="say('submixes')" />
          <v-radio
            value="picked"
            :disabled="!pick.picked.length"
            :label="say('thePickedPickedStrips', { picked: pick.picked.length || '' })"
          />
        </v-radio-group>
      </FormRow>
      <FormRow :label="say('length')">
        <v-number-input
          v-model="seconds"
          class="mono"
          :min="0.1"
          :precision="null"
          :placeholder="transport.length.toFixed(2)"
          :aria-label="say('lengthInSeconds')"
          suffix="s"
          clearable
          width="160"
        />
      </FormRow>
      <FormRow :label="say('tail')">
        <v-switch v-model="tail" :label="say('untilItIsSilent')" />
      </FormRow>
      <p v-if="!strips.length" class="soft">{{ say('thereNothingKindPrintGather') }}</p>
      <p v-else-if="transport.length === 0 && !seconds" class="soft">{{ say('sessionHasNoStemsYet') }}</p>
      <div class="row mt-3">
        <v-btn
          v-if="share === null"
          type="submit"
          variant="flat"
          color="primary"
          :disabled="!strips.length || !(length > 0)"
          >{{ say('printStripsFile', { strips: strips.length }, strips.length) }}</v-btn
        >
        <template v-else>
          <v-progress-linear :model-value="share * 100" :aria-label="say('progress')" max-width="260" />
          <span class="mono">{{ Math.round(share * 100) }} %</span>
          <v-btn variant="outlined" @click="stopper?.abort()">{{ say('cancel') }}</v-btn>
        </template>
      </div>
    </v-form>
    <v-data-table v-if="files.length" :items="[...files]" :headers="HEADERS" item-value="strip">
      <template #[`item.strip`]="{ item }">{{ nameOf(session.document!, item.strip) }}</template>
      <template #[`item.peak`]="{ item }">
        <span :class="{ 'text-error': item.peak > 1 }">{{ levelText(decibelsOf(item.peak)) }} dBFS</span>
      </template>
      <template #[`item.frames`]="{ item }"
        >{{ (item.frames / session.document!.sampleRate).toFixed(2) }} s</template
      >
      <template #[`item.reading.truePeakDb`]="{ item }">
        <span :class="{ 'text-error': (item.reading.truePeakDb ?? -99) > 0 }"
          >{{ levelText(item.reading.truePeakDb) }} dBTP</span
        >
      </template>
      <template #[`item.reading.integrated`]="{ item }">
        <span :title="mostOf(item.reading)">{{ levelText(item.reading.integrated) }} LUFS</span>
      </template>
      <template #[`item.reading.range`]="{ item }">{{
        item.reading.range === null ? '–' : `${item.reading.range.toFixed(1)} LU`
      }}</template>
      <template #[`item.size`]="{ item }">{{ size(item.file.size) }}</template>
      <template #[`item.do`]="{ item }">
        <v-btn variant="outlined" :href="item.url" :download="`${item.strip}.wav`">{{
          say('saveStripWav', { strip: item.strip })
        }}</v-btn>
      </template>
    </v-data-table>
  </main>
</template>

<style scoped>
.view {
  max-width: 900px;
}
form {
  margin: 16px 0;
}
</style>
