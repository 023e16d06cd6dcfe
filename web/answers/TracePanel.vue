<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { levelText } from '@core/levels/decibels';
import { isComb, isFiltered } from '@core/routing/response';
import type { Path, Stage } from '@core/routing/trace';
import { nameOf } from '@core/session/lookup';
import { useActions } from '@/commands/actions';
import { useAnswers } from './answers';
import { useSession } from '@/session/session';
import ResponseCurve from './ResponseCurve.vue';
import WhySilent from './WhySilent.vue';

const answers = useAnswers();
const session = useSession();
const actions = useActions();
const doc = computed(() => session.standing!);
const traced = computed(() => answers.traced);
/** Paths whose stages are unfolded. */
const open = ref<ReadonlySet<number>>(new Set());
watch(
  () => [answers.from, answers.to],
  () => (open.value = new Set([0])),
  { immediate: true },
);
function toggle(i: number) {
  const next = new Set(open.value);
  if (!next.delete(i)) next.add(i);
  open.value = next;
}
const louder = (a: number | null, b: number | null) => Math.max(a ?? -Infinity, b ?? -Infinity);
const both = (left: number | null, right: number | null) => {
  const l = levelText(left);
  const r = levelText(right);
  return l === r ? l : `${l} | ${r}`;
};
const gain = (s: Stage) =>
  s.stops ? '' : s.gainDb === null ? '' : Math.abs(s.gainDb) < 0.005 ? '·' : levelText(s.gainDb);
const ms = (frames: number) =>
  `${((frames / doc.value.sampleRate) * 1000).toFixed(frames < 4800 ? 2 : 0)} ms`;
const filtered = computed(() => traced.value !== null && isFiltered(traced.value.arrivals));
const comb = computed(() => traced.value !== null && isComb(traced.value.arrivals));
/** Echoes that stand apart are heard as such, not as a comb. */
const delays = computed(() => (traced.value?.arrivals ?? []).filter((a) => a.delay > 0));
const stopped = (p: Path) => p.stages.find((s) => s.stops);
const waits = (p: Path, k: number) => p.stages[k]!.latency - (p.stages[k - 1]?.latency ?? 0);
</script>

<template>
  <div v-if="traced && answers.from && answers.to" class="trace">
    <div class="goal">
      <span
        >From <b>{{ nameOf(doc, answers.from) }}</b> to</span
      >
      <select
        class="field"
        :value="answers.to"
        aria-label="Output that is traced to"
        @change="answers.goal = ($event.target as HTMLSelectElement).value"
      >
        <option v-for="o in answers.outputs" :key="o.id" :value="o.id">{{ o.name || o.id }}</option>
      </select>
    </div>
    <WhySilent />
    <section aria-label="Sum of all paths">
      <dl class="sum">
        <dt title="Copies that arrive without an intended delay, amplitudes added">As one signal</dt>
        <dd class="mono">{{ both(traced.leftDb, traced.rightDb) }} dB</dd>
        <dt title="All paths with their effects, powers added">By power</dt>
        <dd class="mono">{{ both(traced.powerLeftDb, traced.powerRightDb) }} dB</dd>
      </dl>
      <p v-if="!traced.paths.length" class="soft">
        Nothing leads from here to {{ nameOf(doc, answers.to) }}.
      </p>
      <template v-if="comb || filtered">
        <p v-if="filtered" class="soft small">
          Filters are on the way: levels are those at 1 kHz.{{ comb ? '' : ' Response:' }}
        </p>
        <p v-if="comb" class="soft small">
          {{ delays.length === 1 ? 'A copy comes' : `${delays.length} copies come` }}
          {{ delays.map((a) => ms(a.delay)).join(', ') }} later. Response of the sum:
        </p>
        <ResponseCurve :arrivals="traced.arrivals" :sample-rate="doc.sampleRate" />
      </template>
    </section>
    <section aria-label="Paths">
      <h2>{{ traced.count === 1 ? '1 path' : `${traced.count} paths` }}</h2>
      <p v-if="traced.count > traced.paths.length" class="soft small">
        The first {{ traced.paths.length }} are listed; the sums above hold all.
      </p>
      <div
        v-for="(p, i) in traced.paths"
        :key="`${p.strips.join()} ${p.edges.join()}`"
        class="path"
        :class="{ chosen: answers.chosen === i, dead: louder(p.leftDb, p.rightDb) === -Infinity }"
      >
        <button class="plain head" :aria-expanded="open.has(i)" @click="toggle(i)">
          <span class="way">{{
            p.strips
              .slice(1)
              .map((s) => nameOf(doc, s))
              .join(' → ') || nameOf(doc, answers.from)
          }}</span>
          <span class="mono level">{{ both(p.leftDb, p.rightDb) }}</span>
        </button>
        <div v-if="stopped(p)" class="stop">{{ stopped(p)!.stops }}</div>
        <template v-if="open.has(i)">
          <table class="mono">
            <thead class="soft">
              <tr>
                <th class="what">stage</th>
                <th title="Decibels that the stage adds">gain</th>
                <th title="Level after the stage, decibels; left and right where they differ">level</th>
              </tr>
            </thead>
            <tbody>
              <template v-for="(s, k) in p.stages" :key="k">
                <tr v-if="k === 0 || p.stages[k - 1]!.strip !== s.strip" class="strip">
                  <th colspan="3">
                    <button class="plain" @click="actions.reveal(s.strip)">{{ nameOf(doc, s.strip) }}</button>
                  </th>
                </tr>
                <tr :class="{ stops: s.stops }">
                  <td class="what">
                    {{ s.label }}<span v-if="waits(p, k) > 0" class="soft">, {{ waits(p, k) }} frames</span
                    ><span v-if="s.delay > 0" class="soft">, {{ ms(s.delay) }} later</span>
                  </td>
                  <td>{{ gain(s) }}</td>
                  <td>{{ both(s.leftDb, s.rightDb) }}</td>
                </tr>
              </template>
            </tbody>
          </table>
          <p v-if="p.spread" class="soft small">
            A reverb spreads the signal in time: its level is that of its power.
          </p>
          <p v-if="p.levelDependent" class="soft small">
            A compressor stands on the way: the level holds below its threshold.
          </p>
          <button
            v-if="traced.paths.length > 1"
            class="plain boxed small"
            :aria-pressed="answers.chosen === i"
            @click="answers.chosen = answers.chosen === i ? null : i"
          >
            {{ answers.chosen === i ? 'Light all paths' : 'Light this path alone' }}
          </button>
        </template>
      </div>
    </section>
    <section v-if="traced.keys.length" aria-label="Keys">
      <h2>It keys</h2>
      <button v-for="k in traced.keys" :key="k.insert" class="plain" @click="actions.reveal(k.strip)">
        {{ nameOf(doc, k.strip) }}
      </button>
    </section>
  </div>
  <p v-else class="none">Pick a strip to trace its signal to an output.</p>
</template>

<style scoped>
.trace {
  font-size: 13px;
}
.goal {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 8px 0;
}
.goal span {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 1;
}
.goal .field {
  width: 110px;
  flex: none;
}
.sum {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 8px;
  margin: 8px 0;
}
.sum dd {
  margin: 0;
  text-align: right;
}
h2 {
  font-size: 13px;
  margin: 10px 0 4px;
}
.path {
  border-top: 1px solid var(--rule);
  padding: 2px 0 4px;
}
.path.chosen {
  border-left: 2px solid var(--signal);
  padding-left: 6px;
}
.head {
  display: flex;
  gap: 8px;
  width: 100%;
  padding: 0;
  text-align: left;
  align-items: center;
}
.way {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.dead .way,
.dead .level {
  color: var(--ink-soft);
}
.stop {
  color: var(--caution);
  font-size: 12px;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
}
td,
th {
  padding: 1px 0 1px 6px;
  text-align: right;
  vertical-align: top;
  font-weight: 400;
  white-space: nowrap;
}
.what {
  text-align: left;
  white-space: normal;
  font-family: var(--text);
  padding-left: 10px;
}
.strip th {
  text-align: left;
  padding: 4px 0 0;
  font-family: var(--text);
}
.strip .plain {
  min-height: 24px;
  padding: 0;
  font-weight: 600;
}
tr.stops {
  color: var(--caution);
}
.small {
  font-size: 12px;
  margin: 2px 0;
}
.none {
  color: var(--ink-soft);
}
</style>
