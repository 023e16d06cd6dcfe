<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { processorOf } from '@core/processors/registry';
import { nameOf } from '@core/session/lookup';
import type { LoadReading } from '@engine/load';
import { useCommands } from '@/commands/commands';
import { useInspector } from '@/commands/inspector';
import { useLoad } from './load';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { BUFFERS, useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';
import { Plot, type PlotAxis, type PlotLine } from '@/ui/plot';
import { say } from '../texts';

/** What the session costs: the audio thread while it plays, and each processor, measured. */
const session = useSession();
const transport = useTransport();
const load = useLoad();
const pick = usePick();
const commands = useCommands();
const inspector = useInspector();
const settings = useSettings();
const percent = (share: number) =>
  share >= 0.0995 ? `${Math.round(share * 100)} %` : `${(share * 100).toFixed(share >= 0.00995 ? 1 : 2)} %`;
const many = (type: string, n: number) => `${n} × ${processorOf(type).name}`;
// While this is looked at, the audio thread measures its processors as it plays.
const playing = shallowRef<LoadReading | null>(null);
const latency = ref(0);
const choice = useTemplateRef<{ focus(): void }>('choice');
function takeLonger() {
  settings.buffer = transport.longerBuffer ?? settings.buffer;
  // The button goes, and the keyboard stays where the buffer is chosen.
  choice.value?.focus();
}
const WHY = {
  slow: (waits: number) => say('lateSlow', { seconds: (waits / 1000).toFixed(1) }),
  away: () => say('lateAway'),
  gone: () => say('lateGone'),
};
/** Those that are late for one reason are told together. */
const lateOnes = computed(() =>
  (['gone', 'away', 'slow'] as const).flatMap((why) => {
    const some = [...transport.lateSources.values()].filter((s) => s.why === why);
    const name = some.map((s) => nameOf(session.shown!, s.strip)).join(', ');
    const waits = Math.max(0, ...some.map((s) => s.waits));
    return some.length ? [{ why, text: say('lateOne', { name, why: WHY[why](waits) }) }] : [];
  }),
);
function look() {
  playing.value = transport.player?.measured ?? null;
  latency.value = transport.player?.latency ?? 0;
}
watch(
  () => transport.player,
  (player, before) => {
    before?.measure(false);
    player?.measure(true);
    look();
  },
  { immediate: true },
);
const timer = setInterval(look, 1000);
onBeforeUnmount(() => {
  clearInterval(timer);
  transport.player?.measure(false);
});

interface Row {
  readonly key: string;
  readonly name: string;
  readonly on: string;
  readonly strip: string;
  readonly insert: string;
  readonly type: string;
  readonly playing: number | null;
  readonly alone: number | null;
}
const keyOf = (r: { strip: string; insert: string }) => `${r.strip} ${r.insert}`;
const rows = computed((): readonly Row[] => {
  const inThread = new Map(playing.value?.inserts.map((i) => [keyOf(i), i.share]));
  const inWorker = new Map(load.reading?.inserts.map((i) => [keyOf(i), i.share]));
  return (session.shown?.strips ?? [])
    .flatMap((s) => s.inserts.map((i) => ({ strip: s.id, insert: i.id, type: i.type })))
    .map((r) => ({
      ...r,
      key: keyOf(r),
      name: processorOf(r.type).name,
      on: nameOf(session.shown!, r.strip),
      playing: inThread.get(keyOf(r)) ?? null,
      alone: inWorker.get(keyOf(r)) ?? null,
    }))
    .filter((r) => r.playing !== null || r.alone !== null)
    .sort((a, b) => (b.alone ?? b.playing!) - (a.alone ?? a.playing!));
});
const strips = computed(() => {
  const sums = new Map<string, number>();
  for (const r of rows.value) sums.set(r.strip, (sums.get(r.strip) ?? 0) + (r.alone ?? r.playing!));
  return sums;
});
const headers = computed(() => [
  { title: say('insert'), key: 'name' },
  ...(playing.value ? [{ title: say('thread'), key: 'playing', align: 'end' as const }] : []),
  ...(load.reading ? [{ title: say('measured'), key: 'alone', align: 'end' as const }] : []),
]);
/** Kinds of processors with what they cost together, the dearest first. */
const byKind = computed(() => {
  const sums = new Map<string, number>();
  for (const r of rows.value) sums.set(r.name, (sums.get(r.name) ?? 0) + (r.alone ?? r.playing!));
  return [...sums].sort((a, b) => b[1] - a[1]);
});
const COST: PlotAxis = {
  name: say('cost'),
  unit: '%',
  min: 0,
  format: (v) => v.toFixed(2),
  splits: 3,
  end: 20,
};
const kinds = computed((): PlotAxis => ({
  name: say('processor'),
  kind: 'category',
  names: byKind.value.map(([name]) => name),
  inverse: true,
  room: 78,
}));
const costs = computed((): readonly PlotLine[] => [
  {
    name: say('shareOfRealTime'),
    kind: 'bars',
    thick: 8,
    points: byKind.value.map(([, share], i) => [i, share * 100]),
  },
]);
const sum = (of: 'playing' | 'alone') => rows.value.reduce((n, r) => n + (r[of] ?? 0), 0);
const rest = computed(() => ({
  playing: playing.value && Math.max(0, playing.value.share - sum('playing')),
  alone: load.reading && Math.max(0, load.reading.share - sum('alone')),
}));
const cell = (share: number | null) => (share === null ? '' : percent(share));
function open(strip: string, id: string) {
  pick.only(strip);
  pick.insert = { strip, id };
  inspector.tab = 'strip';
}
</script>

<template>
  <div class="load text">
    <section class="border-t pb-1" :aria-label="say('theAudioThread')">
      <h2>{{ say('whileItPlays') }}</h2>
      <p>
        {{ say('audioThreadBusy') }} <b class="mono">{{ percent(transport.load) }}</b>
        {{ say('timeLateMost') }} <b class="mono">{{ percent(transport.worst) }}</b>.
      </p>
      <p :class="{ caution: transport.late }" aria-live="polite">
        <template v-if="transport.gaps">
          {{ say('timesGapWasHeard', { times: transport.gaps.times }, transport.gaps.times)
          }}<template v-if="transport.gaps.times">{{
            say('secondsMsInAll', { seconds: (transport.gaps.seconds * 1000).toFixed(0) })
          }}</template
          >.
        </template>
        {{ say('tookLonger', { blocks: transport.overruns }, transport.overruns) }}
        {{ say('stemsLate', { times: transport.dropouts }, transport.dropouts) }}
      </p>
      <div v-if="lateOnes.length" role="group" :aria-label="say('cameLate')">
        <p v-for="s in lateOnes" :key="s.why" class="small">{{ s.text }}</p>
      </div>
      <p v-if="!transport.gaps && transport.player?.started" class="soft small">
        {{ say('browserDoesNotTellWhether') }}
      </p>
      <div class="row">
        <span class="soft">{{ say('buffer') }}</span>
        <v-select
          ref="choice"
          v-model="settings.buffer"
          :items="BUFFERS.map((b) => ({ title: `${b} ms`, value: b }))"
          :aria-label="say('buffer')"
          aria-describedby="buffer-note"
          max-width="100"
        />
        <v-btn
          v-if="transport.longerBuffer"
          variant="outlined"
          :title="say('gapsWereHeardBuffer')"
          @click="takeLonger"
          >{{ say('takeLongerbufferMs', { longerBuffer: transport.longerBuffer }) }}</v-btn
        >
      </div>
      <p id="buffer-note" class="soft small">
        {{ say('longerOneBridgesMoreElse') }}
        {{ latency ? say('nowAfterLatencyMs', { latency: latency.toFixed(0) }) : '' }}
      </p>
    </section>
    <section class="border-t pb-1" :aria-label="say('whatProcessorsCost')">
      <h2>{{ say('processors') }}</h2>
      <p v-if="!load.reading" class="soft">{{ say('measuresEachProcessorSessionCosts') }}</p>
      <div class="row">
        <v-btn variant="outlined" :disabled="load.busy" @click="load.measure">{{
          load.busy ? say('measuring') : load.reading ? say('measureAgain') : say('measure')
        }}</v-btn>
        <span v-if="load.stale" class="caution">{{ say('sessionHasChangedSince') }}</span>
      </div>
      <p v-if="load.reading">
        {{ say('theWholeSessionTakes') }} <b class="mono">{{ percent(load.reading.share) }}</b>
        {{ say('oneCoreShareTimesReal', { share: (1 / load.reading.share).toFixed(0) }) }}
      </p>
      <p v-if="playing" class="soft small">
        {{ say('audioThreadOverSecondsS', { seconds: playing.seconds.toFixed(0) }) }}
      </p>
      <template v-if="rows.length">
        <Plot
          :title="say('eachKindProcessorCostsHundredths')"
          :x="COST"
          :y="kinds"
          :lines="costs"
          :height="30 + 18 * kinds.names!.length"
        />
        <v-data-table :items="rows" :headers="headers" :row-props="{ tabindex: -1 }" item-value="key">
          <template #[`item.name`]="{ item }">
            <v-btn class="name" @click="open(item.strip, item.insert)">{{ item.name }}</v-btn>
            &ensp;<span class="soft">{{ item.on }}</span>
          </template>
          <template #[`item.playing`]="{ item }">
            <span class="mono">{{ cell(item.playing) }}</span>
          </template>
          <template #[`item.alone`]="{ item }">
            <span class="mono">{{ cell(item.alone) }}</span>
          </template>
          <template #[`body.append`]>
            <tr>
              <td class="soft">{{ say('stripsSendsAndMeters') }}</td>
              <td v-if="playing" class="mono">{{ cell(rest.playing) }}</td>
              <td v-if="load.reading" class="mono">{{ cell(rest.alone) }}</td>
            </tr>
          </template>
        </v-data-table>
        <p v-if="strips.size" class="soft small">
          {{
            say('dearestStripName', {
              name: nameOf(session.shown!, [...strips].sort((a, b) => b[1] - a[1])[0]![0]),
            })
          }}
        </p>
      </template>
    </section>
    <section
      v-if="load.shareable.length || load.saving"
      class="border-t pb-1"
      :aria-label="say('oneReturnInstead')"
    >
      <h2>{{ say('oneReturnInstead') }}</h2>
      <template v-for="s in load.shareable" :key="s.type">
        <p>
          {{
            say('manyStandStripsRefs', {
              many: many(s.type, s.refs.length),
              refs: s.refs.map((r) => nameOf(session.shown!, r.strip)).join(', '),
            })
          }}
        </p>
        <v-btn variant="outlined" :disabled="load.busy" @click="load.ifOneReturn(s.type, s.refs)">{{
          say('measureOneReturnWouldSave')
        }}</v-btn>
      </template>
      <template v-if="load.saving">
        <p>
          {{ say('manyAsOneReturn', { many: many(load.saving.type, load.saving.refs.length) }) }}
          <b class="mono">{{ percent(load.saving.before) }}</b> {{ say('now') }}
          <b class="mono">{{ percent(load.saving.after) }}</b> {{ say('then') }}
        </p>
        <p v-for="d in load.saving.differences" :key="d" class="caution">{{ d }}</p>
        <v-btn
          variant="flat"
          color="primary"
          @click="commands.run('moveToReturn', { refs: load.saving.refs })"
          >{{ say('move') }}</v-btn
        >
      </template>
    </section>
  </div>
</template>

<style scoped>
.v-table :deep(td),
.v-table :deep(th) {
  padding: 0 4px 0 0 !important;
}
.v-table :deep(td.mono) {
  text-align: right;
}
</style>
