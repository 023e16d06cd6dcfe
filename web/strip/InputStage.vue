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
function choose(e: Event) {
  const input = Number((e.target as HTMLSelectElement).value);
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
  <section aria-label="Input stage">
    <h2>Input stage <span class="tag">simulated device</span></h2>
    <label class="row"
      ><span>Input</span>
      <select
        class="field"
        aria-label="Input of the preamplifier"
        :value="asked?.input ?? 0"
        @change="choose"
      >
        <option :value="0">none</option>
        <option v-for="n in PREAMP.inputs" :key="n" :value="n" :disabled="taken.has(n)">
          {{ n }}{{ taken.has(n) ? `, ${taken.get(n)}` : '' }}
        </option>
      </select></label
    >
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
      <div class="flags">
        <button
          v-for="[f, text] in FLAGS"
          :key="f"
          class="plain boxed"
          :class="{ open: open.has(f) }"
          :aria-pressed="asked[f]"
          :title="open.has(f) ? 'Asked, not confirmed' : 'Confirmed by the device'"
          @click="set(text, { ...asked, [f]: !asked[f] })"
        >
          {{ text }}{{ open.has(f) ? ' ?' : '' }}
        </button>
      </div>
      <p
        class="said"
        :class="open.size && state?.state === 'settled' ? 'waiting' : state?.state"
        aria-live="polite"
      >
        {{ said }}
        <template v-if="state?.confirmed.gainDb !== undefined && open.has('gainDb')">
          It stands at {{ state.confirmed.gainDb }} dB.</template
        >
        <button
          v-if="state && (state.state === 'silent' || (state.state === 'settled' && open.size))"
          class="plain"
          @click="preamps.again(asked)"
        >
          Ask again
        </button>
      </p>
      <p class="soft">It sets the device; a stem that is recorded already stays as it is.</p>
    </template>
    <p v-else class="soft">A source that comes by a remote preamplifier is set from here.</p>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--rule);
  padding-top: 6px;
  margin-top: 8px;
}
h2 {
  font-size: 13px;
  margin: 0 0 2px;
}
.tag {
  font-weight: 400;
  font-size: 11px;
  color: var(--caution);
  border: 1px solid var(--caution);
  padding: 0 4px;
  margin-left: 6px;
}
.row {
  display: grid;
  grid-template-columns: 72px 1fr;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.row span {
  color: var(--ink-soft);
}
.flags {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 4px;
  font-size: 12px;
}
.flags [aria-pressed='true'] {
  border-color: var(--signal);
  color: var(--signal);
}
.flags .open {
  border-style: dashed;
}
p {
  font-size: 12px;
  margin: 4px 0;
}
.said.settled {
  color: var(--signal);
}
.said.waiting,
.said.silent {
  color: var(--caution);
}
</style>
