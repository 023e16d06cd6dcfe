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
import { say } from './texts';

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
  if (!s || !asked.value) return say('notAskedYet');
  if (!isAsked(s, asked.value)) return say('askingSize5Settings', { size: open.value.size });
  if (s.state === 'silent') return say('noAnswerHoweverOftenWas');
  if (s.state === 'waiting') return say('askedWaitingSize5Answers', { size: open.value.size });
  return open.value.size ? say('hasSetSomethingElseThan') : say('confirmedByTheDevice2');
});
const name = computed(() => props.strip.name || props.strip.id);
const set = (what: string, preamp: PreampSettings | null) =>
  session.commit(say('preamplifierName', { what, name: name.value }), [
    { type: 'strip.set', id: props.strip.id, patch: { preamp } },
  ]);
const inputs = computed(() => [
  { title: say('none'), value: 0 },
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
  ['pad', say('pad', { db: `${PREAMP.padDb}`.replace('-', '−') })],
  ['phantom', say('phantomPower')],
  ['lowCut', say('lowCutLowcuthertzHz', { lowCutHertz: PREAMP.lowCutHertz })],
  ['invert', say('polarity')],
] as const;
</script>

<template>
  <section class="border-t mt-2 pt-1" :aria-label="say('inputStage')">
    <h2>{{ say('inputStage') }} <v-chip class="caution" :text="say('simulatedDevice')" /></h2>
    <label class="pair ga-2 align-center text"
      ><span class="soft">{{ say('inputTitle') }}</span>
      <v-select
        :model-value="asked?.input ?? 0"
        :items="inputs"
        item-props
        :aria-label="say('inputOfThePreamplifier')"
        @update:model-value="choose"
    /></label>
    <template v-if="asked">
      <ParameterSlider
        :label="say('gain')"
        :value="asked.gainDb"
        :min="PREAMP.gainMin"
        :max="PREAMP.gainMax"
        :default="30"
        :step="PREAMP.gainStep"
        :text="`${asked.gainDb} dB${open.has('gainDb') ? '?' : ''}`"
        :spoken="
          say('gaindbDecibelsHas', {
            gainDb: asked.gainDb,
            has: open.has('gainDb') ? say('notConfirmed') : say('confirmed'),
          })
        "
        :read="read"
        drag="preamp"
        :what="say('gainPreamplifierName', { name })"
        :make="(v) => edit(v ?? 30)"
      />
      <div class="row wrap">
        <v-btn
          v-for="[f, text] in FLAGS"
          :key="f"
          variant="outlined"
          size="x-small"
          :class="{ 'border-dashed': open.has(f) }"
          :aria-pressed="asked[f]"
          :title="open.has(f) ? say('askedNotConfirmed') : say('confirmedByTheDevice')"
          @click="set(text, { ...asked, [f]: !asked[f] })"
          >{{ text }}{{ open.has(f) ? ' ?' : '' }}</v-btn
        >
      </div>
      <p
        class="small"
        :class="state?.state === 'settled' && !open.size ? 'signal' : 'caution'"
        aria-live="polite"
      >
        {{ said }}
        <template v-if="state?.confirmed.gainDb !== undefined && open.has('gainDb')">
          {{ say('standsGaindbDb', { gainDb: state.confirmed.gainDb }) }}</template
        >
        <v-btn
          v-if="state && (state.state === 'silent' || (state.state === 'settled' && open.size))"
          @click="preamps.again(asked)"
          >{{ say('askAgain') }}</v-btn
        >
      </p>
      <p class="soft small">{{ say('setsDeviceStemRecordedAlready') }}</p>
    </template>
    <p v-else class="soft small">{{ say('sourceComesRemotePreamplifierSet') }}</p>
  </section>
</template>
