<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { levelText } from '@core/levels/decibels';
import { changeText, type LevelChange } from '@core/routing/ripple';
import { nameOf, stripMap } from '@core/session/lookup';
import { processorOf } from '@core/processors/registry';
import type { Session } from '@core/session/types';
import { compareExcerpts } from '@/audio/measuring';
import { useAnswers } from './answers';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import { useTargets } from '@/session/targets';
import { Plot, type PlotAxis, type PlotLine } from '@/ui/plot';
import { useTransport } from '@/audio/transport';
import { say } from './texts';

const answers = useAnswers();
const session = useSession();
const transport = useTransport();
const { reveal } = useTargets();
const notices = useNotices();
const doc = computed(() => session.standing!);
const name = (id: string) => nameOf(doc.value, id);
const insertName = (strip: string, insert: string) => {
  const found = stripMap(doc.value)
    .get(strip)
    ?.inserts.find((i) => i.id === insert);
  return found ? processorOf(found.type).name : insert;
};
const sized = computed(() => answers.move?.kind !== 'mute' && answers.move?.kind !== 'vcaMute');
const chosen = computed({
  get: () => (answers.vca ? `vca:${answers.vca}` : answers.kind),
  set: (key: string) => {
    answers.vca = key.startsWith('vca:') ? key.slice(4) : null;
    if (!answers.vca) answers.kind = key;
  },
});

/** Things that change alike stand together. */
function alike<T>(list: readonly T[], change: (x: T) => LevelChange, what: (x: T) => string) {
  const groups = new Map<string, { text: string; within: boolean; names: string[] }>();
  for (const x of list) {
    const c = change(x);
    const text = changeText(c);
    const key = `${text} ${c.within}`;
    const group = groups.get(key);
    if (group) group.names.push(what(x));
    else groups.set(key, { text, within: c.within, names: [what(x)] });
  }
  return [...groups.values()];
}
const driven = computed(() => answers.rippled?.driven ?? []);
const balances = computed(() =>
  alike(
    answers.rippled?.balances ?? [],
    (b) => b.change,
    (b) =>
      say('nameInName2Outputs', {
        name: name(b.strip),
        name2: name(b.through),
        outputs: (answers.rippled?.outputs.length ?? 1) > 1 ? say('atName2', { name: name(b.output) }) : '',
      }),
  ),
);
const shown = (names: readonly string[], most = 5) =>
  names.length <= most
    ? names.join(', ')
    : say('namesAndNames2More', { names: names.slice(0, most).join(', '), names2: names.length - most });

// — heard: the excerpt around the playhead before and after —
const SECONDS = 6;
const share = ref<number | null>(null);
interface Row {
  readonly key: string;
  readonly name: string;
  readonly level: number | null;
  /** RMS levels that are plotted. */
  readonly before?: number;
  readonly after?: number;
  readonly loudness: number | null;
  readonly reduction: number | null;
}
const heard = shallowRef<{
  readonly rows: readonly Row[];
  readonly from: number;
  readonly to: number;
  readonly of: Session;
} | null>(null);
let stopper: AbortController | null = null;
const outOfDate = computed(() => heard.value !== null && heard.value.of !== answers.after);
watch(
  () => [answers.from, chosen.value],
  () => {
    stopper?.abort();
    heard.value = null;
  },
);
onBeforeUnmount(() => stopper?.abort());

async function hear() {
  const after = answers.after;
  if (!after || !session.standing) return;
  stopper?.abort();
  const mine = (stopper = new AbortController());
  const rate = doc.value.sampleRate;
  const start = Math.max(0, Math.min(transport.position - SECONDS / 3, transport.length - SECONDS));
  const seconds = Math.min(SECONDS, Math.max(0.5, transport.length - start));
  share.value = 0;
  try {
    const result = await compareExcerpts(
      {
        before: session.standing,
        after,
        start: Math.round(start * rate),
        frames: Math.round(seconds * rate),
        stems: session.stems,
      },
      (s) => (share.value = s),
      mine.signal,
    );
    const difference = (a: number | null, b: number | null) => (a === null || b === null ? null : b - a);
    const rows: Row[] = result.before.strips.flatMap((b, i) => {
      const a = result.after.strips[i]!;
      const changed =
        b.rmsDb === null ? a.rmsDb !== null : a.rmsDb === null || Math.abs(a.rmsDb - b.rmsDb) >= 0.05;
      return changed
        ? [
            {
              key: b.strip,
              name: name(b.strip),
              level: b.rmsDb === null ? Infinity : a.rmsDb === null ? -Infinity : a.rmsDb - b.rmsDb,
              loudness: difference(b.loudness, a.loudness),
              before: b.rmsDb ?? SILENCE_DB,
              after: a.rmsDb ?? SILENCE_DB,
              reduction: null,
            },
          ]
        : [];
    });
    const inserts: Row[] = result.before.reductions.flatMap((b, i) => {
      const d = result.after.reductions[i]!.mean - b.mean;
      return Math.abs(d) >= 0.05
        ? [
            {
              key: `${b.strip} ${b.insert}`,
              name: say('insertnameOnName', {
                insertName: insertName(b.strip, b.insert),
                name: name(b.strip),
              }),
              level: null,
              loudness: null,
              reduction: d,
            },
          ]
        : [];
    });
    heard.value = { rows: [...inserts, ...rows], from: start, to: start + seconds, of: after };
  } catch (error) {
    if ((error as Error).name !== 'AbortError') notices.refused(error);
  }
  if (stopper === mine) share.value = null;
}
/** Where the plot of levels begins. */
const SILENCE_DB = -72;
const LEVEL: PlotAxis = {
  name: say('rmsLevel'),
  unit: 'dB',
  // A bar is as long as the level stands above the least.
  min: 0,
  max: -SILENCE_DB,
  interval: 24,
  format: (v) => (v + SILENCE_DB).toFixed(1),
  label: (v: number) => `${v + SILENCE_DB}`.replace('-', '−'),
  end: 14,
};
const plotted = computed(() => (heard.value?.rows ?? []).filter((r) => r.before !== undefined).slice(0, 12));
const nodes = computed((): PlotAxis => ({
  name: say('node'),
  kind: 'category',
  names: plotted.value.map((r) => r.name),
  inverse: true,
  room: 88,
}));
const levels = computed((): readonly PlotLine[] =>
  plotted.value.length
    ? (['before', 'after'] as const).map((when) => ({
        name: when === 'before' ? say('before') : say('after'),
        kind: 'bars',
        thick: 7,
        colour: when === 'before' ? 'ink-soft' : 'signal',
        points: plotted.value.map((r, i) => [i, Math.max(0, r[when]! - SILENCE_DB)]),
      }))
    : [],
);
const HEADERS = [
  { title: say('node'), key: 'name', sortable: false },
  {
    title: say('levelTitle'),
    key: 'level',
    align: 'end',
    sortable: false,
    headerProps: { title: say('rmsLevelDb') },
  },
  {
    title: say('loudness'),
    key: 'loudness',
    align: 'end',
    sortable: false,
    headerProps: { title: say('integratedLoudnessLu') },
  },
  {
    title: say('reduction'),
    key: 'reduction',
    align: 'end',
    sortable: false,
    headerProps: { title: say('meanGainReductionDb') },
  },
] as const;
const signed = (x: number | null) =>
  x === null ? '' : x === Infinity ? say('sounds') : x === -Infinity ? say('silent') : levelText(x);
function make() {
  if (answers.commands)
    session.commit(
      say('moveAsAskedName', { name: answers.moves.find((m) => m.key === chosen.value)?.name ?? '' }),
      answers.commands,
    );
}
</script>

<template>
  <div v-if="answers.moves.length" class="ripple text">
    <div class="row wrap ask">
      <span>{{ say('if') }}</span>
      <v-select
        v-model="chosen"
        :items="answers.moves.map((m) => ({ title: m.name, value: m.key }))"
        :aria-label="say('whatMoves')"
        class="what"
      />
      <template v-if="sized">
        <span>{{ say('movesBy') }}</span>
        <v-number-input
          v-model="answers.by"
          class="mono"
          :step="0.5"
          :precision="null"
          :min="-40"
          :max="40"
          :aria-label="say('decibels')"
          suffix="dB"
          max-width="130"
        />
      </template>
      <span v-else>{{ say('changes') }}</span>
    </div>

    <section
      v-if="answers.effect"
      class="effect"
      :class="{ alone: answers.effect.levelAlone }"
      :aria-label="say('whatTheVcaDoes')"
    >
      <p>{{ answers.effect.sentence }}</p>
      <v-btn
        v-if="answers.effect.better"
        variant="outlined"
        class="wraps"
        @click="session.commit(answers.effect.better.label, answers.effect.better.commands)"
        >{{ answers.effect.better.label }}</v-btn
      >
    </section>

    <template v-if="answers.rippled">
      <section :aria-label="say('processorsDrivenDifferently')">
        <h2>{{ say('drivenDifferently') }}</h2>
        <p v-if="!driven.length" class="soft">{{ say('noCompressorGateGetsAnother') }}</p>
        <div v-for="d in driven" :key="`${d.strip} ${d.insert}`" class="line d-flex flex-wrap align-baseline">
          <v-btn class="name wraps" @click="reveal(d.strip)">{{
            say('insertnameOnName', { insertName: insertName(d.strip, d.insert), name: name(d.strip) })
          }}</v-btn>
          <span class="mono signal">{{ changeText(d.change) }}</span>
          <span v-if="d.keyed" class="soft">{{ say('atItsKey') }}</span>
        </div>
      </section>
      <section :aria-label="say('wetAgainstDry')">
        <h2>{{ say('wetAgainstDry') }}</h2>
        <p v-if="!balances.length" class="soft">{{ say('everyEffectKeepsProportion') }}</p>
        <div v-for="b in balances" :key="b.text + b.names[0]" class="line d-flex flex-wrap align-baseline">
          <span class="mono signal">{{ b.text }}</span>
          <span>{{ shown(b.names) }}</span>
        </div>
      </section>
      <section
        v-for="o in answers.rippled.outputs"
        :key="o.output"
        :aria-label="say('atName', { name: name(o.output) })"
      >
        <h2>{{ say('atName', { name: name(o.output) }) }}</h2>
        <p v-if="!o.sources.length" class="soft">{{ say('nothingArrivesDifferently') }}</p>
        <div
          v-for="g in alike(
            o.sources,
            (s) => s.change,
            (s) => name(s.strip),
          )"
          :key="g.text + g.names[0]"
          class="line d-flex flex-wrap align-baseline"
        >
          <span class="mono signal">{{ g.text }}</span>
          <span
            >{{ shown(g.names)
            }}<span v-if="g.within" class="soft">{{ say('asFarAsCompressorLets') }}</span></span
          >
        </div>
        <p v-if="o.sources.length && o.unchanged" class="soft">
          {{ say('unchangedOtherSourceArrivesAs', { unchanged: o.unchanged }, o.unchanged) }}
        </p>
      </section>

      <section :aria-label="say('heard')">
        <h2>{{ say('heard') }}</h2>
        <p v-if="!heard && share === null" class="soft">
          {{ say('fromGainsExactEngineCan', { seconds: SECONDS }) }}
        </p>
        <div class="row">
          <v-btn v-if="share === null" variant="outlined" :disabled="transport.length === 0" @click="hear">{{
            heard ? say('measureAgain') : say('measureIt')
          }}</v-btn>
          <template v-else>
            <v-progress-linear :model-value="share * 100" :aria-label="say('progress')" />
            <v-btn variant="outlined" @click="stopper?.abort()">{{ say('cancel') }}</v-btn>
          </template>
          <v-btn variant="outlined" @click="make">{{ say('makeTheMove') }}</v-btn>
        </div>
        <template v-if="heard">
          <p class="soft">
            {{
              say('fromSAfterAgainstBefore', {
                from: heard.from.toFixed(1),
                to: heard.to.toFixed(1),
                outOfDate: outOfDate ? say('outOfDate') : '',
              })
            }}
          </p>
          <p v-if="!heard.rows.length" class="soft">{{ say('nothingChangesHere005') }}</p>
          <div v-else :class="{ old: outOfDate }">
            <Plot
              v-if="levels.length"
              :title="say('levelsBeforeAndAfter')"
              :x="LEVEL"
              :y="nodes"
              :lines="levels"
              :height="30 + 26 * nodes.names!.length"
            />
            <v-data-table :items="heard.rows" :headers="HEADERS" item-value="key">
              <template
                v-for="k in ['level', 'loudness', 'reduction'] as const"
                #[`item.${k}`]="{ item }"
                :key="k"
              >
                <span class="mono">{{ signed(item[k]) }}</span>
              </template>
            </v-data-table>
          </div>
        </template>
      </section>
    </template>
  </div>
  <p v-else class="soft">{{ say('pickStripSeeElseChanges') }}</p>
</template>

<style scoped>
.ask .what {
  min-width: 150px;
}
.effect {
  border-left: 3px solid var(--caution);
  padding: 4px 0 4px 8px;
  margin-bottom: 6px;
}
.effect.alone {
  border-color: var(--signal);
}
.line {
  gap: 0 8px;
  padding: 2px 0;
}
.old {
  opacity: 0.55;
}
.v-table {
  font-size: 12px;
}
.v-table :deep(td),
.v-table :deep(th) {
  padding: 0 0 0 6px !important;
}
</style>
