<script setup lang="ts">
import { computed } from 'vue';
import type { Parameter } from '@core/processors/description';
import { parameterText, readParameter } from '@core/processors/text';
import LaneMark from '@/session/automation/LaneMark.vue';
import ParameterSlider from '@/session/ParameterSlider.vue';
import type { InsertEdit } from './useInsertEdit';
import { say } from './texts';

/** One parameter of an insert: a slider, a switch, or a choice. */
const props = defineProps<{ parameter: Parameter; edit: InsertEdit }>();
const p = props.parameter;
const isToggle = p.choices?.join() === 'Off,On';
const on = computed(() => props.edit.value(props.parameter) >= 0.5);
</script>

<template>
  <div v-if="isToggle" class="choice pair ga-2 align-center text">
    <span class="label soft">{{ parameter.name }} <LaneMark :control="edit.control(parameter.id)" /></span>
    <v-switch
      role="switch"
      :model-value="on"
      :label="on ? say('on') : say('off')"
      :aria-label="edit.name(parameter)"
      @update:model-value="edit.set(edit.name(parameter), { [p.id]: on ? 0 : 1 })"
      @keydown.backspace.prevent="edit.set(edit.name(parameter), { [p.id]: p.default })"
    />
  </div>
  <div v-else-if="parameter.choices" class="choice pair ga-2 align-center text">
    <span class="label soft"
      >{{ parameter.name }} <LaneMark v-if="!parameter.latent" :control="edit.control(parameter.id)"
    /></span>
    <v-select
      :aria-label="edit.name(parameter)"
      :model-value="Math.round(edit.value(parameter))"
      :items="parameter.choices.map((title, value) => ({ title, value }))"
      @update:model-value="(value) => edit.set(edit.name(parameter), { [p.id]: value })"
      @keydown.backspace.prevent="edit.set(edit.name(parameter), { [p.id]: p.default })"
    />
  </div>
  <ParameterSlider
    v-else
    :label="parameter.name"
    :value="edit.value(parameter)"
    :min="parameter.min"
    :max="parameter.max"
    :default="parameter.default"
    :step="parameter.step"
    :law="parameter.law"
    :text="parameterText(parameter, edit.value(parameter))"
    :read="(t) => readParameter(parameter, t)"
    :control="parameter.latent ? undefined : edit.control(parameter.id)"
    :drag="edit.drag.value"
    :what="edit.label(edit.name(parameter))"
    :make="(v) => edit.params({ [p.id]: v ?? parameter.default })"
  />
</template>

<style scoped>
.choice {
  min-height: 28px;
}
</style>
