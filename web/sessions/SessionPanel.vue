<script setup lang="ts">
import { computed } from 'vue';
import { freshId } from '@core/session/lookup';
import { barText, clockText } from '@core/session/time';
import type { PanLaw, Section, Tempo } from '@core/session/types';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';

const emit = defineEmits<{ addStems: [] }>();
const session = useSession();
const transport = useTransport();
const doc = computed(() => session.document!);
const many = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;
const counts = computed(() => {
  const of = (kind: string) => doc.value.strips.filter((s) => s.kind === kind).length;
  return [
    many(of('source'), 'source'),
    many(of('submix'), 'submix', 'submixes'),
    many(of('return'), 'return'),
    many(of('output'), 'output'),
    many(doc.value.vcas.length, 'VCA'),
  ].join(', ');
});
const LAWS: readonly PanLaw[] = [-3, -4.5, -6, 0];

const value = (e: Event) => (e.target as HTMLInputElement).value;
function rename(e: Event) {
  const name = value(e).trim();
  if (name && name !== doc.value.name)
    session.commit(`rename the session ${name}`, [{ type: 'session.set', patch: { name } }]);
}
const setTempo = (patch: Partial<Tempo>) =>
  session.commit('tempo', [{ type: 'session.set', patch: { tempo: { ...doc.value.tempo, ...patch } } }]);
function setBpm(e: Event) {
  const bpm = Number(value(e));
  if (bpm >= 10 && bpm <= 999) setTempo({ bpm });
  else (e.target as HTMLInputElement).value = String(doc.value.tempo.bpm);
}
const setSections = (label: string, sections: readonly Section[]) =>
  session.change(label, () => [{ type: 'sections.set', sections }]);
function addSection() {
  const span = transport.loop ?? { start: transport.position, end: transport.length };
  if (span.end - span.start < 0.05) return;
  const name = `Section ${doc.value.sections.length + 1}`;
  const made = { id: freshId(doc.value, name), name, start: span.start, end: span.end };
  setSections(
    `section ${name}`,
    [...doc.value.sections, made].sort((a, b) => a.start - b.start),
  );
}
const nameSection = (s: Section, e: Event) =>
  setSections(
    'rename a section',
    doc.value.sections.map((x) => (x.id === s.id ? { ...x, name: value(e).trim() } : x)),
  );
</script>

<template>
  <section aria-label="Session">
    <label>Name <input class="field" :value="doc.name" @change="rename" @keydown.stop /></label>
    <p class="soft">{{ counts }}; {{ doc.sampleRate / 1000 }} kHz, {{ clockText(transport.length) }}</p>
    <button class="plain boxed" @click="emit('addStems')">Bring in more WAV files…</button>
  </section>
  <section aria-label="Levels and time">
    <label>
      Pan law, at the centre
      <select
        class="field"
        :value="doc.panLaw"
        @change="
          session.commit('pan law', [
            { type: 'session.set', patch: { panLaw: Number(value($event)) as PanLaw } },
          ])
        "
      >
        <option v-for="law in LAWS" :key="law" :value="law">{{ law === 0 ? '0 dB' : `−${-law} dB` }}</option>
      </select>
    </label>
    <div class="tempo">
      <label
        >Quarters a minute
        <input
          class="field mono"
          type="number"
          min="10"
          max="999"
          step="any"
          :value="doc.tempo.bpm"
          @change="setBpm"
          @keydown.stop
      /></label>
      <label>
        Bar
        <select
          class="field"
          :value="doc.tempo.beatsPerBar"
          aria-label="Beats of a bar"
          @change="setTempo({ beatsPerBar: Number(value($event)) })"
        >
          <option v-for="n in 16" :key="n" :value="n">{{ n }}</option>
        </select>
      </label>
      <label>
        of
        <select
          class="field"
          :value="doc.tempo.beatUnit"
          aria-label="Value of a beat"
          @change="setTempo({ beatUnit: Number(value($event)) })"
        >
          <option v-for="n in [1, 2, 4, 8, 16, 32]" :key="n" :value="n">1/{{ n }}</option>
        </select>
      </label>
    </div>
  </section>
  <section aria-label="Sections">
    <h2>Sections</h2>
    <p v-if="!doc.sections.length" class="soft">
      None yet. Drag over the ribbon below, and make a section of it.
    </p>
    <div v-for="s in doc.sections" :key="s.id" class="line">
      <input
        class="field"
        :value="s.name"
        :aria-label="`Name of the section at ${clockText(s.start)}`"
        @change="nameSection(s, $event)"
        @keydown.stop
      />
      <button class="plain mono" :title="clockText(s.start)" @click="transport.locate(s.start)">
        {{ barText(s.start, doc.tempo) }}
      </button>
      <button
        class="plain"
        :aria-label="`Remove the section ${s.name}`"
        @click="
          setSections(
            `remove section ${s.name}`,
            doc.sections.filter((x) => x.id !== s.id),
          )
        "
      >
        ✕
      </button>
    </div>
    <button class="plain boxed" :disabled="transport.length === 0" @click="addSection">
      {{ transport.loop ? 'Make a section of the loop' : 'Make a section from here to the end' }}
    </button>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
  font-size: 13px;
}
label {
  display: block;
  color: var(--ink-soft);
}
.tempo {
  display: grid;
  grid-template-columns: 1.6fr 1fr 1fr;
  gap: 6px;
  margin-top: 6px;
  align-items: end;
}
p {
  margin: 6px 0;
}
h2 {
  font-size: 13px;
  margin: 0 0 4px;
}
.line {
  display: flex;
  gap: 4px;
  margin-bottom: 4px;
}
</style>
