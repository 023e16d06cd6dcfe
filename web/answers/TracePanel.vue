<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { levelText } from '@core/levels/decibels';
import { isComb, isFiltered } from '@core/routing/response';
import type { Path, Stage } from '@core/routing/trace';
import { nameOf } from '@core/session/lookup';
import { useTargets } from '@/session/targets';
import { useAnswers } from './answers';
import { useSession } from '@/session/session';
import ResponseCurve from './ResponseCurve.vue';
import WhySilent from './WhySilent.vue';
import { say } from './texts';

const answers = useAnswers();
const session = useSession();
const { reveal } = useTargets();
const doc = computed(() => session.standing!);
const traced = computed(() => answers.traced);
/** Numbers of the paths whose stages are unfolded. */
const open = ref<number[]>([]);
watch(
  () => [answers.from, answers.to],
  () => (open.value = [0]),
  { immediate: true },
);
const goal = computed({ get: () => answers.to, set: (id) => (answers.goal = id) });
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
  <div v-if="traced && answers.from && answers.to" class="trace text">
    <div class="row">
      <span class="from text-truncate flex-1-1-0"
        >{{ say('from') }} <b>{{ nameOf(doc, answers.from) }}</b> {{ say('to') }}</span
      >
      <v-select
        v-model="goal"
        :items="answers.outputs.map((o) => ({ title: o.name || o.id, value: o.id }))"
        :aria-label="say('outputTraced')"
        max-width="110"
      />
    </div>
    <WhySilent />
    <section :aria-label="say('sumOfAllPaths')">
      <dl class="sum my-2 mx-0">
        <dt :title="say('copiesArriveFirst')">{{ say('asOneSignal') }}</dt>
        <dd class="mono">{{ both(traced.leftDb, traced.rightDb) }} dB</dd>
        <dt :title="say('allPathsTheirEffectsPowers')">{{ say('byPower') }}</dt>
        <dd class="mono">{{ both(traced.powerLeftDb, traced.powerRightDb) }} dB</dd>
      </dl>
      <p
        v-if="
          traced.leftDb === null &&
          traced.rightDb === null &&
          (traced.powerLeftDb !== null || traced.powerRightDb !== null)
        "
        class="soft small"
      >
        {{ say('noSingleCopy') }}
      </p>
      <p v-if="!traced.paths.length" class="soft">
        {{ say('nothingLeadsFromHereName', { name: nameOf(doc, answers.to) }) }}
      </p>
      <template v-if="comb || filtered">
        <p v-if="filtered" class="soft small">
          {{ say('filtersWayLevelsThose1', { comb: comb ? '' : say('response') }) }}
        </p>
        <p v-if="comb" class="soft small">
          {{
            say(
              'copiesLater',
              { copies: delays.length, delays: delays.map((a) => ms(a.delay)).join(', ') },
              delays.length,
            )
          }}
        </p>
        <ResponseCurve :arrivals="traced.arrivals" :sample-rate="doc.sampleRate" />
      </template>
    </section>
    <section :aria-label="say('paths')">
      <h2>{{ traced.count === 1 ? say('n1Path') : say('countPaths', { count: traced.count }) }}</h2>
      <p v-if="traced.count > traced.paths.length" class="soft small">
        {{ say('firstPathsListedSumsAbove', { paths: traced.paths.length }) }}
      </p>
      <v-expansion-panels v-model="open" multiple bg-color="transparent">
        <v-expansion-panel
          v-for="(p, i) in traced.paths"
          :key="`${p.strips.join()} ${p.edges.join()}`"
          class="path border-t"
          :class="{ chosen: answers.chosen === i, dead: louder(p.leftDb, p.rightDb) === -Infinity }"
        >
          <v-expansion-panel-title hide-actions>
            <span class="way text-truncate flex-1-1-0">{{
              p.strips
                .slice(1)
                .map((s) => nameOf(doc, s))
                .join(' → ') || nameOf(doc, answers.from)
            }}</span>
            <span class="mono level">{{ both(p.leftDb, p.rightDb) }}</span>
          </v-expansion-panel-title>
          <div v-if="stopped(p)" class="caution small">{{ stopped(p)!.stops }}</div>
          <v-expansion-panel-text>
            <v-table class="mono">
              <thead class="soft">
                <tr>
                  <th class="what">{{ say('stage') }}</th>
                  <th :title="say('decibelsStageAdds')">{{ say('gain') }}</th>
                  <th :title="say('levelAfterStageDecibelsLeft')">{{ say('level') }}</th>
                </tr>
              </thead>
              <tbody>
                <template v-for="(s, k) in p.stages" :key="k">
                  <tr v-if="k === 0 || p.stages[k - 1]!.strip !== s.strip" class="strip">
                    <th colspan="3">
                      <v-btn class="name" @click="reveal(s.strip)">{{ nameOf(doc, s.strip) }}</v-btn>
                    </th>
                  </tr>
                  <tr :class="{ caution: s.stops }">
                    <td class="what">
                      {{ s.label
                      }}<span v-if="waits(p, k) > 0" class="soft">{{
                        say('waitsFrames', { waits: waits(p, k) })
                      }}</span
                      ><span v-if="s.delay > 0" class="soft">{{ say('msLater', { ms: ms(s.delay) }) }}</span>
                    </td>
                    <td>{{ gain(s) }}</td>
                    <td>{{ both(s.leftDb, s.rightDb) }}</td>
                  </tr>
                </template>
              </tbody>
            </v-table>
            <p v-if="p.spread" class="soft small">{{ say('reverbSpreadsSignalTimeLevel') }}</p>
            <p v-if="p.levelDependent" class="soft small">{{ say('compressorStandsWayLevelHolds') }}</p>
            <v-btn
              v-if="traced.paths.length > 1"
              variant="outlined"
              :aria-pressed="answers.chosen === i"
              @click="answers.chosen = answers.chosen === i ? null : i"
              >{{ answers.chosen === i ? say('lightAllPaths') : say('lightThisPathAlone') }}</v-btn
            >
          </v-expansion-panel-text>
        </v-expansion-panel>
      </v-expansion-panels>
    </section>
    <section v-if="traced.keys.length" :aria-label="say('keys')">
      <h2>{{ say('itKeys') }}</h2>
      <v-btn v-for="k in traced.keys" :key="k.insert" class="name" @click="reveal(k.strip)">{{
        nameOf(doc, k.strip)
      }}</v-btn>
    </section>
  </div>
  <p v-else class="soft">{{ say('pickStripTraceSignalOutput') }}</p>
</template>

<style scoped>
.sum {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 8px;
}
.sum dd {
  margin: 0;
  text-align: right;
}
.path {
  background: none;
}
.path.chosen {
  border-left: 2px solid var(--signal);
  padding-left: 6px;
}
.path :deep(.v-expansion-panel-title) {
  min-height: 28px;
  padding: 0;
  font-size: 13px;
  gap: 8px;
}
.path :deep(.v-expansion-panel-text__wrapper) {
  padding: 0 0 6px;
}
.dead .way,
.dead .level {
  color: var(--ink-soft);
}
.v-table {
  font-size: 12px;
  --v-table-row-height: 18px;
  --v-table-header-height: 20px;
}
.v-table td,
.v-table th {
  padding: 1px 0 1px 6px !important;
  text-align: right !important;
  border: 0 !important;
  white-space: nowrap;
  height: auto !important;
}
.v-table .what {
  text-align: left !important;
  white-space: normal;
  font-family: var(--text);
  padding-left: 10px !important;
}
.v-table .strip th {
  text-align: left !important;
  padding: 4px 0 0 !important;
  font-family: var(--text);
}
.strip .v-btn {
  font-weight: 600;
}
</style>
