<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { computed } from 'vue';
import { freshId } from '@core/session/lookup';
import { barText, clockText } from '@core/session/time';
import type { PanLaw, Section, Tempo } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import * as rules from '@/session/rules';
import { useSession } from '@/session/session';
import { say } from './texts';

/** What belongs to the whole session: its name, stems, pan law, tempo and sections. */
const session = useSession();
const transport = useTransport();
const commands = useCommands();
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
const LAWS = ([-3, -4.5, -6, 0] as const).map((value: PanLaw) => ({
  title: value === 0 ? '0 dB' : `−${-value} dB`,
  value,
}));
const BEATS = Array.from({ length: 16 }, (_, i) => i + 1);
const UNITS = [1, 2, 4, 8, 16, 32].map((value) => ({ title: `1/${value}`, value }));

const value = (e: Event) => (e.target as HTMLInputElement).value.trim();
async function rename(e: Event) {
  const name = value(e);
  if (name !== doc.value.name && (await rules.keeps(rules.sessionName, name)))
    session.commit(say('renameTheSessionName', { name }), [{ type: 'session.set', patch: { name } }]);
}
const setPanLaw = (panLaw: PanLaw) =>
  session.commit(say('panLaw'), [{ type: 'session.set', patch: { panLaw } }]);
const setTempo = (patch: Partial<Tempo>) =>
  session.commit(say('tempo'), [{ type: 'session.set', patch: { tempo: { ...doc.value.tempo, ...patch } } }]);
async function setBpm(e: Event) {
  const bpm = Number(value(e));
  if (await rules.keeps(rules.bpm, bpm)) setTempo({ bpm });
}
const setSections = (label: string, sections: readonly Section[]) =>
  session.change(label, () => [{ type: 'sections.set', sections }]);
function addSection() {
  const span = transport.loop ?? { start: transport.position, end: transport.length };
  if (span.end - span.start < 0.05) return;
  const name = say('sectionSections', { sections: doc.value.sections.length + 1 });
  const made = { id: freshId(doc.value, name), name, start: span.start, end: span.end };
  setSections(
    say('sectionName', { name }),
    [...doc.value.sections, made].sort((a, b) => a.start - b.start),
  );
}
async function nameSection(s: Section, e: Event) {
  const name = value(e);
  if (await rules.keeps(rules.name, name))
    setSections(
      say('renameASection'),
      doc.value.sections.map((x) => (x.id === s.id ? { ...x, name } : x)),
    );
}
const removeSection = (s: Section) =>
  setSections(
    say('removeSectionName', { name: s.name }),
    doc.value.sections.filter((x) => x.id !== s.id),
  );
</script>

<template>
  <section class="border-t py-2 px-0 text" :aria-label="say('session')">
    <label class="soft">
      {{ say('name') }}
      <v-text-field
        :model-value="doc.name"
        :rules="rules.sessionName"
        :aria-label="say('name')"
        @change="rename"
        @keydown.stop
      />
    </label>
    <p class="soft">{{ counts }}; {{ doc.sampleRate / 1000 }} kHz, {{ clockText(transport.length) }}</p>
    <v-btn variant="outlined" @click="commands.run('bringIn')">{{ say('addWavFiles') }}</v-btn>
  </section>
  <section :aria-label="say('levelsAndTime')" class="soft border-t py-2 px-0 text">
    <label>
      {{ say('panLawCentre') }}
      <v-select
        :model-value="doc.panLaw"
        :items="LAWS"
        :aria-label="say('panLawTitle')"
        @update:model-value="setPanLaw"
      />
    </label>
    <div class="tempo ga-1 mt-1">
      <label
        >{{ say('quartersAMinute') }}
        <v-text-field
          class="mono"
          :model-value="doc.tempo.bpm"
          :rules="[(v) => rules.bpm[0]!(Number(v))]"
          inputmode="decimal"
          :aria-label="say('quartersAMinute')"
          @change="setBpm"
          @keydown.stop
      /></label>
      <label
        >{{ say('bar') }}
        <v-select
          :model-value="doc.tempo.beatsPerBar"
          :items="BEATS"
          :aria-label="say('beatsOfABar')"
          @update:model-value="(beatsPerBar) => setTempo({ beatsPerBar })"
      /></label>
      <label
        >{{ say('of') }}
        <v-select
          :model-value="doc.tempo.beatUnit"
          :items="UNITS"
          :aria-label="say('valueOfABeat')"
          @update:model-value="(beatUnit) => setTempo({ beatUnit })"
      /></label>
    </div>
  </section>
  <section class="border-t py-2 px-0 text" :aria-label="say('sections')">
    <h2>{{ say('sections') }}</h2>
    <p v-if="!doc.sections.length" class="soft">{{ say('noneYetDragOverRibbon') }}</p>
    <div v-for="s in doc.sections" :key="s.id" class="line d-flex ga-1 mb-1">
      <v-text-field
        :model-value="s.name"
        :rules="rules.name"
        :aria-label="say('nameSectionClock', { clock: clockText(s.start) })"
        @change="nameSection(s, $event)"
        @keydown.stop
      />
      <v-btn class="mono" :title="clockText(s.start)" @click="transport.locate(s.start)">{{
        barText(s.start, doc.tempo)
      }}</v-btn>
      <v-btn
        :icon="mdiClose"
        :aria-label="say('removeTheSectionName', { name: s.name })"
        :title="say('remove')"
        @click="removeSection(s)"
      />
    </div>
    <v-btn variant="outlined" :disabled="transport.length === 0" @click="addSection">{{
      transport.loop ? say('addLoopAsSection') : say('addSectionFromHereEnd')
    }}</v-btn>
  </section>
</template>

<style scoped>
.tempo {
  display: grid;
  grid-template-columns: 1.4fr 1fr 1.2fr;
  align-items: end;
}
</style>
