<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { EQUALIZER_BANDS } from '@core/processors/equalizer';
import { isOn, type Parameter } from '@core/processors/description';
import { readParameter } from '@core/processors/text';
import type { Insert, Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import DecayCurve from './DecayCurve.vue';
import DynamicsCurve from './DynamicsCurve.vue';
import EqualizerCurve from './EqualizerCurve.vue';
import ParameterRow from './ParameterRow.vue';
import type { InsertEdit } from './useInsertEdit';

/** The curve and the parameters of an insert: narrow in the inspector, all at once in the large editor. */
const props = defineProps<{ strip: Strip; insert: Insert; edit: InsertEdit; large?: boolean }>();
const band = ref(2);
watch(
  () => props.insert.id,
  () => {
    // Begins at the first band that does something.
    const first = EQUALIZER_BANDS.findIndex(
      (b) => isOn(b.on, props.insert.params) && (b.slope || (b.gain && props.edit.value(b.gain) !== 0)),
    );
    band.value = first < 0 ? 2 : first;
  },
  { immediate: true },
);
const processor = computed(() => props.edit.processor.value);
const isEq = computed(() => processor.value.type === 'equalizer');
/** The switch of a band, which stands in its title in the large editor. */
const switchOf = (list: readonly Parameter[]) => (isEq.value ? list.find((p) => p.name === 'On') : undefined);
/** Parameters by their groups, in order. */
const groups = computed(() => {
  const list: { name: string; parameters: Parameter[] }[] = [];
  for (const p of processor.value.parameters) {
    const name = p.group ?? '';
    const known = list.find((g) => g.name === name);
    if (known) known.parameters.push(p);
    else list.push({ name, parameters: [p] });
  }
  return list;
});
const shown = computed(() =>
  isEq.value && !props.large
    ? groups.value.filter((g) => g.name === EQUALIZER_BANDS[band.value]!.name)
    : groups.value,
);
const percent: Parameter = {
  id: 'mix',
  name: 'Mix',
  unit: '%',
  min: 0,
  max: 100,
  default: 100,
  law: 'linear',
  step: 1,
};
const height = computed(() => (props.large ? 260 : isEq.value ? 150 : 110));
</script>

<template>
  <EqualizerCurve
    v-if="isEq"
    v-model:band="band"
    :strip="strip"
    :insert="insert"
    :edit="edit"
    :height="height"
  />
  <DynamicsCurve
    v-else-if="processor.curves.includes('static')"
    :strip="strip"
    :insert="insert"
    :edit="edit"
    :height="height"
  />
  <DecayCurve v-else-if="processor.curves.includes('decay')" :insert="insert" :height="height" />
  <div v-if="isEq && !large" class="bands" role="tablist" aria-label="Bands">
    <button
      v-for="(b, i) in EQUALIZER_BANDS"
      :key="b.id"
      class="plain"
      role="tab"
      :aria-selected="i === band"
      :class="{ off: !isOn(b.on, insert.params) }"
      :title="b.name"
      @click="band = i"
    >
      {{ i + 1 }}
    </button>
  </div>
  <div class="groups" :class="{ large }">
    <fieldset v-for="g in shown" :key="g.name" :class="{ bare: !g.name }">
      <legend v-if="g.name && (large || groups.length > 1)">
        <button
          v-if="large && switchOf(g.parameters)"
          class="plain switch"
          role="switch"
          :aria-checked="isOn(switchOf(g.parameters)!, insert.params)"
          :aria-label="`${g.name} on`"
          @click="
            edit.set(`${g.name} on or off`, {
              [switchOf(g.parameters)!.id]: isOn(switchOf(g.parameters)!, insert.params) ? 0 : 1,
            })
          "
        >
          {{ isOn(switchOf(g.parameters)!, insert.params) ? '◆' : '◇' }} {{ g.name }}
        </button>
        <template v-else>{{ g.name }}</template>
      </legend>
      <ParameterRow
        v-for="p in large ? g.parameters.filter((x) => x !== switchOf(g.parameters)) : g.parameters"
        :key="p.id"
        :parameter="p"
        :edit="edit"
      />
    </fieldset>
    <fieldset v-if="processor.mixes" class="bare">
      <legend v-if="large">Mix</legend>
      <ParameterSlider
        label="Mix"
        :value="insert.mix * 100"
        :min="0"
        :max="100"
        :default="100"
        :step="1"
        :text="`${Math.round(insert.mix * 100)} %`"
        :read="(t) => readParameter(percent, t)"
        :control="edit.control('mix')"
        :gesture="edit.gesture.value"
        :what="edit.label('mix')"
        :make="(v) => edit.patch({ mix: (v ?? 100) / 100 })"
      />
    </fieldset>
  </div>
</template>

<style scoped>
.bands {
  display: flex;
  margin-top: 4px;
}
.bands .plain {
  flex: 1;
  border-bottom: 2px solid transparent;
  padding: 0;
}
.bands [aria-selected='true'] {
  border-bottom-color: var(--signal);
  font-weight: 600;
}
.bands .off {
  color: var(--ink-soft);
}
.groups {
  display: grid;
  gap: 4px 18px;
  margin-top: 4px;
}
.groups.large {
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  margin-top: 12px;
}
fieldset {
  border: 0;
  border-top: 1px solid var(--rule);
  padding: 2px 0 0;
  margin: 0;
  min-width: 0;
}
fieldset.bare {
  border-top: 0;
}

.switch {
  padding: 0 4px 0 0;
  min-height: 24px;
  font-size: 12px;
}
.switch[aria-checked='true'] {
  color: var(--signal);
}
legend {
  font-size: 11px;
  color: var(--ink-soft);
  padding: 0 6px 0 0;
}
</style>
