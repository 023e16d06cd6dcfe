<script setup lang="ts">
import { computed } from 'vue';
import {
  isAsked,
  newPreamp,
  PREAMP,
  unconfirmed,
  type PreampField,
  type PreampSettings,
} from '@core/devices/preamp';
import type { Strip } from '@core/session/types';
import { usePreamps } from '@/session/preamps';
import { useSession } from '@/session/session';
import ParameterSlider from '@/session/ParameterSlider.vue';

/** The remote preamplifier that a source comes by: what is asked of it, and what it has confirmed. */
const props = defineProps<{ strip: Strip }>();
const session = useSession();
const preamps = usePreamps();
const asked = computed(() => props.strip.preamp);
const state = computed(() => (asked.value ? session.preamps.get(asked.value.input) : undefined));
const open = computed(
  () => new Set<PreampField>(state.value && asked.value ? unconfirmed(state.value, asked.value) : []),
);
const taken = computed(
  () =>
    new Map(
      (session.shown?.strips ?? [])
        .filter((s) => s.preamp && s.id !== props.strip.id)
        .map((s) => [s.preamp!.input, s.name || s.id]),
    ),
);
const said = computed(() => {
  const s = state.value;
  if (!s || !asked.value) return 'Not asked yet.';
  if (!isAsked(s, asked.value)) return `Asking for ${open.value.size} of 5 settings.`;
  if (s.state === 'silent') return 'No answer, however often it was asked.';
  if (s.state === 'waiting') return `Asked; waiting for ${open.value.size} of 5 answers.`;
  return open.value.size ? 'It has set something else than was asked.' : 'Confirmed by the device.';
});
const name = computed(() => props.strip.name || props.strip.id);
const set = (what: string, preamp: PreampSettings | null) =>
  session.commit(`${what} of the preamplifier, ${name.value}`, [
    { type: 'strip.set', id: props.strip.id, patch: { preamp } },
  ]);
const inputs = computed(() => [
  { title: 'none', value: 0 },
  ...Array.from({ length: PREAMP.inputs }, (_, i) => ({
    title: `${i + 1}${taken.value.has(i + 1) ? `, ${taken.value.get(i + 1)}` : ''}`,
    value: i + 1,
    disabled: taken.value.has(i + 1),
  })),
]);
function choose(input: number) {
  set('input', input === 0 ? null : { ...(asked.value ?? newPreamp(input)), input });
}
const gain = (v: number) => Math.round(v / PREAMP.gainStep) * PREAMP.gainStep;
const edit = (v: number) =>
  [
    { type: 'strip.set', id: props.strip.id, patch: { preamp: { ...asked.value!, gainDb: gain(v) } } },
  ] as const;
const read = (t: string) => {
  const n = Number(
    t
      .replace('−', '-')
      .replace(',', '.')
      .replace(/[^\d.-]/g, ''),
  );
  return t.trim() === '' || Number.isNaN(n) ? undefined : gain(n);
};
const FLAGS = [
  ['pad', `Pad ${PREAMP.padDb} dB`.replace('-', '−')],
  ['phantom', 'Phantom power'],
  ['lowCut', `Low cut ${PREAMP.lowCutHertz} Hz`],
  ['invert', 'Polarity'],
] as const;
</script>

<template>
  <section class="border-t mt-2" aria-label="Input stage">
    <h2>Input stage <v-chip class="caution" text="simulated device" /></h2>
    <label class="pair ga-2 align-center text"
      ><span class="soft">Input</span>
      <v-select
        :model-value="asked?.input ?? 0"
        :items="inputs"
        item-props
        aria-label="Input of the preamplifier"
        @update:model-value="choose"
    /></label>
    <template v-if="asked">
      <ParameterSlider
        label="Gain"
        :value="asked.gainDb"
        :min="PREAMP.gainMin"
        :max="PREAMP.gainMax"
        :default="30"
        :step="PREAMP.gainStep"
        :text="`${asked.gainDb} dB${open.has('gainDb') ? '?' : ''}`"
        :spoken="`${asked.gainDb} decibels, ${open.has('gainDb') ? 'not confirmed' : 'confirmed'}`"
        :read="read"
        gesture="preamp"
        :what="`gain of the preamplifier, ${name}`"
        :make="(v) => edit(v ?? 30)"
      />
      <div class="row wrap">
        <v-btn
          v-for="[f, text] in FLAGS"
          :key="f"
          variant="outlined"
          :class="{ open: open.has(f) }"
          :aria-pressed="asked[f]"
          :title="open.has(f) ? 'Asked, not confirmed' : 'Confirmed by the device'"
          @click="set(text, { ...asked, [f]: !asked[f] })"
          >{{ text }}{{ open.has(f) ? ' ?' : '' }}</v-btn
        >
      </div>
      <p
        class="said small"
        :class="open.size && state?.state === 'settled' ? 'waiting' : state?.state"
        aria-live="polite"
      >
        {{ said }}
        <template v-if="state?.confirmed.gainDb !== undefined && open.has('gainDb')">
          It stands at {{ state.confirmed.gainDb }} dB.</template
        >
        <v-btn
          v-if="state && (state.state === 'silent' || (state.state === 'settled' && open.size))"
          @click="preamps.again(asked)"
          >Ask again</v-btn
        >
      </p>
      <p class="soft small">It sets the device; a stem that is recorded already stays as it is.</p>
    </template>
    <p v-else class="soft small">A source that comes by a remote preamplifier is set from here.</p>
  </section>
</template>

<style scoped>
section {
  padding-top: 2px;
}
.pair {
  display: grid;
  grid-template-columns: 72px 1fr;
}
.wrap .v-btn {
  font-size: 12px;
  height: 24px;
}
.open {
  border-style: dashed;
}
.said.settled {
  color: var(--signal);
}
.said.waiting,
.said.silent {
  color: var(--caution);
}
</style>
