<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { isOn, type Parameter, type ResponseBand } from '@core/processors/description';
import { readParameter } from '@core/processors/text';
import type { Insert, Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import DecayCurve from './DecayCurve.vue';
import DynamicsCurve from './DynamicsCurve.vue';
import EqualizerCurve from './EqualizerCurve.vue';
import ParameterRow from './ParameterRow.vue';
import type { InsertEdit } from './useInsertEdit';
import { say } from './texts';

/** The curve and the parameters of an insert: narrow in the inspector, all at once in the large editor. */
const props = defineProps<{ strip: Strip; insert: Insert; edit: InsertEdit; large?: boolean }>();
const processor = computed(() => props.edit.processor.value);
const bands = computed(() => processor.value.bands ?? []);
const isEq = computed(() => bands.value.length > 0);
const band = ref(2);
watch(
  () => props.insert.id,
  () => {
    // Begins at the first band that does something.
    const does = (p?: Parameter) => p !== undefined && props.edit.value(p) !== 0;
    const first = bands.value.findIndex(
      (b) => isOn(b.on, props.insert.params) && (b.slope || does(b.gain) || does(b.range)),
    );
    band.value = first < 0 ? 2 : first;
  },
  { immediate: true },
);
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
/** Whether a group is of a band: it bears its name, or begins with it. */
const isOf = (group: string, b: ResponseBand) => group === b.name || group.startsWith(`${b.name} `);
/** In the inspector those of one band, and of none. */
const shown = computed(() =>
  isEq.value && !props.large
    ? groups.value.filter(
        (g) => isOf(g.name, bands.value[band.value]!) || !bands.value.some((b) => isOf(g.name, b)),
      )
    : groups.value,
);
const percent: Parameter = {
  id: 'mix',
  name: say('mixTitle'),
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
  <v-tabs v-if="isEq && !large" v-model="band" class="bands" grow :aria-label="say('bands')">
    <v-tab
      v-for="(b, i) in bands"
      :key="b.id"
      :value="i"
      :class="{ soft: !isOn(b.on, insert.params) }"
      :title="b.name"
      >{{ i + 1 }}</v-tab
    >
  </v-tabs>
  <div class="groups mt-1" :class="{ large }">
    <div v-for="g in shown" :key="g.name" class="group" role="group" :aria-label="g.name || undefined">
      <div v-if="g.name && (large || groups.length > 1)" class="border-t tiny soft">
        <v-switch
          v-if="large && switchOf(g.parameters)"
          role="switch"
          :model-value="isOn(switchOf(g.parameters)!, insert.params)"
          :label="g.name"
          :aria-label="say('nameOn', { name: g.name })"
          @update:model-value="
            edit.set(say('onOrOff', { name: g.name }), {
              [switchOf(g.parameters)!.id]: isOn(switchOf(g.parameters)!, insert.params) ? 0 : 1,
            })
          "
        />
        <template v-else>{{ g.name }}</template>
      </div>
      <ParameterRow
        v-for="p in large ? g.parameters.filter((x) => x !== switchOf(g.parameters)) : g.parameters"
        :key="p.id"
        :parameter="p"
        :edit="edit"
      />
    </div>
    <div v-if="processor.mixes" class="group" role="group" :aria-label="say('mixTitle')">
      <div v-if="large" class="border-t tiny soft">{{ say('mixTitle') }}</div>
      <ParameterSlider
        :label="say('mixTitle')"
        :value="insert.mix * 100"
        :min="0"
        :max="100"
        :default="100"
        :step="1"
        :text="`${Math.round(insert.mix * 100)} %`"
        :read="(t) => readParameter(percent, t)"
        :control="edit.control('mix')"
        :drag="edit.drag.value"
        :what="edit.label(say('mix'))"
        :make="(v) => edit.patch({ mix: (v ?? 100) / 100 })"
      />
    </div>
  </div>
</template>

<style scoped>
.bands .v-tab.v-btn {
  padding: 0;
}
.groups {
  display: grid;
  gap: 4px 18px;
}
.groups.large {
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  margin-top: 12px;
}
</style>
