<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { levelText } from '@core/levels/decibels';
import { changeText, type Change } from '@core/routing/ripple';
import { nameOf, stripMap } from '@core/session/lookup';
import { processorOf } from '@core/processors/registry';
import type { Session } from '@core/session/types';
import { compareExcerpts } from '@/audio/measuring';
import { useActions } from '@/commands/actions';
import { useAnswers } from './answers';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';

const answers = useAnswers();
const session = useSession();
const transport = useTransport();
const actions = useActions();
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
function alike<T>(list: readonly T[], change: (x: T) => Change, what: (x: T) => string) {
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
      `${name(b.strip)} in ${name(b.through)}${(answers.rippled?.outputs.length ?? 1) > 1 ? ` at ${name(b.output)}` : ''}`,
  ),
);
const shown = (names: readonly string[], most = 5) =>
  names.length <= most
    ? names.join(', ')
    : `${names.slice(0, most).join(', ')} and ${names.length - most} more`;

// — heard: the excerpt around the playhead before and after —
const SECONDS = 6;
const share = ref<number | null>(null);
interface Row {
  readonly key: string;
  readonly name: string;
  readonly level: number | null;
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
              name: `${insertName(b.strip, b.insert)} on ${name(b.strip)}`,
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
const signed = (x: number | null) =>
  x === null ? '' : x === Infinity ? 'sounds' : x === -Infinity ? 'silent' : levelText(x);
function make() {
  if (answers.commands)
    session.commit(
      `move as asked: ${answers.moves.find((m) => m.key === chosen.value)?.name ?? ''}`,
      answers.commands,
    );
}
</script>

<template>
  <div v-if="answers.moves.length" class="ripple">
    <div class="ask">
      <label
        >If
        <select v-model="chosen" class="field" aria-label="What moves">
          <option v-for="m in answers.moves" :key="m.key" :value="m.key">{{ m.name }}</option>
        </select></label
      >
      <label v-if="sized"
        >moves by
        <input
          v-model.number="answers.by"
          class="field mono"
          type="number"
          step="0.5"
          min="-40"
          max="40"
          aria-label="Decibels"
        />
        dB</label
      >
      <span v-else>changes</span>
    </div>

    <section
      v-if="answers.effect"
      class="effect"
      :class="{ alone: answers.effect.levelAlone }"
      aria-label="What the VCA does"
    >
      <p>{{ answers.effect.sentence }}</p>
      <button
        v-if="answers.effect.better"
        class="plain boxed"
        @click="session.commit(answers.effect.better.label, answers.effect.better.commands)"
      >
        {{ answers.effect.better.label }}
      </button>
    </section>

    <template v-if="answers.rippled">
      <section aria-label="Processors that are driven differently">
        <h2>Driven differently</h2>
        <p v-if="!driven.length" class="soft">No compressor or gate gets another level.</p>
        <ul>
          <li v-for="d in driven" :key="`${d.strip} ${d.insert}`">
            <button class="plain" @click="actions.reveal(d.strip)">
              {{ insertName(d.strip, d.insert) }} on {{ name(d.strip) }}
            </button>
            <span class="mono">{{ changeText(d.change) }}</span>
            <span v-if="d.keyed" class="soft">at its key</span>
          </li>
        </ul>
      </section>
      <section aria-label="Wet against dry">
        <h2>Wet against dry</h2>
        <p v-if="!balances.length" class="soft">Every effect keeps its proportion.</p>
        <ul>
          <li v-for="b in balances" :key="b.text + b.names[0]">
            <span class="mono">{{ b.text }}</span>
            <span>{{ shown(b.names) }}</span>
          </li>
        </ul>
      </section>
      <section v-for="o in answers.rippled.outputs" :key="o.output" :aria-label="`At ${name(o.output)}`">
        <h2>At {{ name(o.output) }}</h2>
        <p v-if="!o.sources.length" class="soft">Nothing arrives differently.</p>
        <ul>
          <li
            v-for="g in alike(
              o.sources,
              (s) => s.change,
              (s) => name(s.strip),
            )"
            :key="g.text + g.names[0]"
          >
            <span class="mono">{{ g.text }}</span>
            <span
              >{{ shown(g.names)
              }}<span v-if="g.within" class="soft">, as far as the compressor lets it</span></span
            >
          </li>
        </ul>
        <p v-if="o.sources.length && o.unchanged" class="soft">
          {{ o.unchanged }} other {{ o.unchanged === 1 ? 'source arrives' : 'sources arrive' }} as before.
        </p>
      </section>

      <section aria-label="Heard">
        <h2>Heard</h2>
        <p v-if="!heard && share === null" class="soft">
          From the gains it is exact. The engine can also print {{ SECONDS }} s around the playhead both ways
          and compare.
        </p>
        <div class="row">
          <button v-if="share === null" class="plain boxed" :disabled="transport.length === 0" @click="hear">
            {{ heard ? 'Measure again' : 'Measure it' }}
          </button>
          <template v-else>
            <progress :value="share" max="1" aria-label="Progress" />
            <button class="plain boxed" @click="stopper?.abort()">Stop</button>
          </template>
          <button class="plain boxed" @click="make">Make the move</button>
        </div>
        <template v-if="heard">
          <p class="soft">
            {{ heard.from.toFixed(1) }} to {{ heard.to.toFixed(1) }} s, after against before{{
              outOfDate ? '; out of date' : ''
            }}
          </p>
          <p v-if="!heard.rows.length" class="soft">Nothing changes here by 0.05 dB or more.</p>
          <table v-else :class="{ old: outOfDate }">
            <thead class="soft">
              <tr>
                <th>Node</th>
                <th title="RMS level, dB">Level</th>
                <th title="Integrated loudness, LU">Loudness</th>
                <th title="Mean gain reduction, dB">Reduction</th>
              </tr>
            </thead>
            <tbody class="mono">
              <tr v-for="r in heard.rows" :key="r.key">
                <td>{{ r.name }}</td>
                <td>{{ signed(r.level) }}</td>
                <td>{{ signed(r.loudness) }}</td>
                <td>{{ signed(r.reduction) }}</td>
              </tr>
            </tbody>
          </table>
        </template>
      </section>
    </template>
  </div>
  <p v-else class="none">Pick a strip to see what else changes when it moves.</p>
</template>

<style scoped>
.ripple {
  font-size: 13px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 8px 0;
}
.ask label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.ask select {
  width: 150px;
}
.ask input {
  width: 70px;
}
.effect {
  border-left: 3px solid var(--caution);
  padding: 4px 0 4px 8px;
  margin-bottom: 6px;
}
.effect.alone {
  border-color: var(--signal);
}
.effect p {
  margin: 0 0 4px;
}
.effect .boxed {
  text-align: left;
}
h2 {
  font-size: 13px;
  margin: 10px 0 2px;
}
p {
  margin: 2px 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  align-items: baseline;
  padding: 2px 0;
}
li .plain {
  padding: 0;
  text-align: left;
}
li .mono {
  color: var(--signal);
}
.row {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 4px 0;
}
progress {
  flex: 1;
  min-width: 60px;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
}
th,
td {
  text-align: right;
  padding: 2px 0 2px 6px;
  border-top: 1px solid var(--rule);
}
th {
  font-weight: 400;
}
th:first-child,
td:first-child {
  text-align: left;
  padding-left: 0;
  font-family: var(--text);
}
.old {
  opacity: 0.55;
}
.none {
  color: var(--ink-soft);
}
</style>
