<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { processorOf } from '@core/processors/registry';
import { nameOf } from '@core/session/lookup';
import type { LoadReading } from '@engine/load';
import { useActions } from '@/commands/actions';
import { useLoad } from './load';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { BUFFERS, useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';
import { useAnswers } from '../answers';

/** What the session costs: the audio thread while it plays, and each processor, measured. */
const session = useSession();
const transport = useTransport();
const load = useLoad();
const pick = usePick();
const actions = useActions();
const answers = useAnswers();
const settings = useSettings();
const percent = (share: number) =>
  share >= 0.0995 ? `${Math.round(share * 100)} %` : `${(share * 100).toFixed(share >= 0.00995 ? 1 : 2)} %`;
const many = (type: string, n: number) => `${n} × ${processorOf(type).name}`;
// While this is looked at, the audio thread measures its processors as it plays.
const playing = shallowRef<LoadReading | null>(null);
const latency = ref(0);
const choice = ref<HTMLSelectElement | null>(null);
function takeLonger() {
  settings.buffer = transport.longerBuffer ?? settings.buffer;
  // The button goes, and the keyboard stays where the buffer is chosen.
  choice.value?.focus();
}
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
    .map((r) => ({ ...r, playing: inThread.get(keyOf(r)) ?? null, alone: inWorker.get(keyOf(r)) ?? null }))
    .filter((r) => r.playing !== null || r.alone !== null)
    .sort((a, b) => (b.alone ?? b.playing!) - (a.alone ?? a.playing!));
});
const strips = computed(() => {
  const sums = new Map<string, number>();
  for (const r of rows.value) sums.set(r.strip, (sums.get(r.strip) ?? 0) + (r.alone ?? r.playing!));
  return sums;
});
const most = computed(() => Math.max(1e-9, ...rows.value.map((r) => r.alone ?? r.playing!)));
const sum = (of: 'playing' | 'alone') => rows.value.reduce((n, r) => n + (r[of] ?? 0), 0);
const rest = computed(() => ({
  playing: playing.value && Math.max(0, playing.value.share - sum('playing')),
  alone: load.reading && Math.max(0, load.reading.share - sum('alone')),
}));
const cell = (share: number | null) => (share === null ? '' : percent(share));
function open(strip: string, id: string) {
  pick.only(strip);
  pick.insert = { strip, id };
  answers.panel = 'strip';
}
</script>

<template>
  <div class="load">
    <section aria-label="The audio thread">
      <h2>While it plays</h2>
      <p>
        The audio thread is busy for <b class="mono">{{ percent(transport.load) }}</b> of its time; of late at
        most for <b class="mono">{{ percent(transport.worst) }}</b>.
      </p>
      <p :class="{ caution: transport.late }" aria-live="polite">
        <template v-if="transport.gaps">
          {{ transport.gaps.times }} {{ transport.gaps.times === 1 ? 'gap was' : 'gaps were' }} heard<template
            v-if="transport.gaps.times"
            >, {{ (transport.gaps.seconds * 1000).toFixed(0) }} ms in all</template
          >.
        </template>
        {{ transport.overruns }}
        {{
          transport.overruns === 1 ? 'block took longer than it lasts' : 'blocks took longer than they last'
        }}; {{ transport.dropouts }} {{ transport.dropouts === 1 ? 'time' : 'times' }} a stem was not there in
        time.
      </p>
      <p v-if="!transport.gaps && transport.player?.started" class="soft small">
        This browser does not tell whether a gap was heard.
      </p>
      <div class="row">
        <label for="buffer">Buffer</label>
        <select
          id="buffer"
          ref="choice"
          v-model.number="settings.buffer"
          class="field"
          aria-describedby="buffer-note"
        >
          <option v-for="b in BUFFERS" :key="b" :value="b">{{ b }} ms</option>
        </select>
        <button
          v-if="transport.longerBuffer"
          class="plain boxed"
          title="Gaps were heard with this buffer"
          @click="takeLonger"
        >
          Take {{ transport.longerBuffer }} ms
        </button>
      </div>
      <p id="buffer-note" class="soft small">
        A longer one bridges more of what else the machine does; with a shorter one a hand on a fader is heard
        sooner<template v-if="latency"> (now after {{ latency.toFixed(0) }} ms)</template>.
      </p>
    </section>
    <section aria-label="What processors cost">
      <h2>Processors</h2>
      <p v-if="!load.reading" class="soft">
        Measures what each processor of this session costs, on this machine, in this browser. It takes a few
        seconds and changes nothing.
      </p>
      <div class="row">
        <button class="plain boxed" :disabled="load.busy" @click="load.measure">
          {{ load.busy ? 'Measuring…' : load.reading ? 'Measure again' : 'Measure' }}
        </button>
        <span v-if="load.stale" class="caution">The session has changed since.</span>
      </div>
      <p v-if="load.reading">
        The whole session takes <b class="mono">{{ percent(load.reading.share) }}</b> of one core:
        {{ (1 / load.reading.share).toFixed(0) }} times real time.
      </p>
      <p v-if="playing" class="soft small">
        In the audio thread: over {{ playing.seconds.toFixed(0) }} s so far; a rare processor settles within
        some ten seconds.
      </p>
      <template v-if="rows.length">
        <table>
          <thead>
            <tr>
              <th scope="col" class="soft">Insert</th>
              <th scope="col" class="soft">{{ playing ? 'Thread' : '' }}</th>
              <th scope="col" class="soft">{{ load.reading ? 'Measured' : '' }}</th>
              <td />
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in rows" :key="`${r.strip} ${r.insert}`">
              <td>
                <button class="plain" @click="open(r.strip, r.insert)">{{ processorOf(r.type).name }}</button>
                <span class="soft">{{ nameOf(session.shown!, r.strip) }}</span>
              </td>
              <td class="mono">{{ cell(r.playing) }}</td>
              <td class="mono">{{ cell(r.alone) }}</td>
              <td class="bar"><i :style="{ width: `${((r.alone ?? r.playing!) / most) * 100}%` }" /></td>
            </tr>
            <tr>
              <td class="soft">Strips, sends and meters</td>
              <td class="mono">{{ cell(rest.playing) }}</td>
              <td class="mono">{{ cell(rest.alone) }}</td>
              <td />
            </tr>
          </tbody>
        </table>
        <p v-if="strips.size" class="soft small">
          Dearest strip:
          {{ nameOf(session.shown!, [...strips].sort((a, b) => b[1] - a[1])[0]![0]) }}.
        </p>
      </template>
    </section>
    <section v-if="load.shareable.length || load.saving" aria-label="One return instead">
      <h2>One return instead</h2>
      <div v-for="s in load.shareable" :key="s.type" class="share">
        <p>
          {{ many(s.type, s.refs.length) }} stand on strips:
          {{ s.refs.map((r) => nameOf(session.shown!, r.strip)).join(', ') }}.
        </p>
        <button class="plain boxed" :disabled="load.busy" @click="load.ifOneReturn(s.type, s.refs)">
          Measure what one return would save
        </button>
      </div>
      <div v-if="load.saving" class="saving">
        <p>
          {{ many(load.saving.type, load.saving.refs.length) }} as one return:
          <b class="mono">{{ percent(load.saving.before) }}</b> now,
          <b class="mono">{{ percent(load.saving.after) }}</b> then.
        </p>
        <p v-for="d in load.saving.differences" :key="d" class="caution">{{ d }}</p>
        <button class="plain boxed primary" @click="actions.openMove(load.saving.refs)">Do it…</button>
      </div>
    </section>
  </div>
</template>

<style scoped>
.load {
  font-size: 13px;
}
section {
  border-top: 1px solid var(--rule);
  padding: 6px 0;
}
h2 {
  font-size: 13px;
  margin: 0 0 2px;
}
p {
  margin: 4px 0;
}
.caution {
  color: var(--caution);
}
.small {
  font-size: 12px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.row .field {
  width: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
td {
  padding: 1px 4px 1px 0;
}
td .plain {
  padding: 0 6px 0 0;
  min-height: 24px;
}
th {
  font-weight: normal;
  font-size: 12px;
  text-align: right;
}
th:first-child {
  text-align: left;
}
td.mono {
  padding-left: 8px;
  text-align: right;
  white-space: nowrap;
}
.bar {
  width: 54px;
}
.bar i {
  display: block;
  height: 6px;
  background: var(--signal);
}
.share,
.saving {
  padding: 2px 0 6px;
}
</style>
