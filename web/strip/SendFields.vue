<script setup lang="ts">
import FormRow from '@/ui/FormRow.vue';
import TapChoice from '@/ui/TapChoice.vue';
import type { SendsForm } from './sendsForm';
import { say } from './texts';

/** Tap, level, pan and switch of sends that are made or changed. */
defineProps<{ there: boolean }>();
const form = defineModel<SendsForm>({ required: true });
const SWITCHES = [
  { title: say('asItIs'), value: '' },
  { title: say('on'), value: 'on' },
  { title: say('off'), value: 'off' },
];
</script>

<template>
  <FormRow :label="say('tap')"><TapChoice v-model="form.tap" :as-it-is="form.action === 'change'" /></FormRow>
  <FormRow :label="say('levelTitle')">
    <v-radio-group v-model="form.how" :aria-label="say('levelTitle')">
      <v-radio v-if="form.action === 'change'" value="keep" :label="say('asItIs')" />
      <v-radio value="set" :label="say('setTo')" />
      <v-text-field
        v-model="form.level"
        class="mono"
        :aria-label="say('levelInDecibels')"
        suffix="dB"
        width="96"
      />
      <template v-if="there">
        <v-radio value="by" :label="say('moveBy')" />
        <v-number-input
          v-model="form.by"
          class="mono"
          :step="0.5"
          :precision="null"
          :aria-label="say('moveByDecibels')"
          suffix="dB"
          width="120"
        />
      </template>
    </v-radio-group>
  </FormRow>
  <FormRow :label="say('more')">
    <span>{{ say('pan') }}</span>
    <v-text-field
      v-model="form.pan"
      class="mono"
      :placeholder="say('asItIs')"
      :aria-label="say('panTitle')"
      width="90"
    />
    <span>{{ say('switch') }}</span>
    <v-select v-model="form.switched" :items="SWITCHES" :aria-label="say('switchTitle')" width="110" />
    <v-checkbox v-if="form.tap !== 'post'" v-model="form.copyFader" :label="say('startFromFadersLevelPan')" />
    <v-checkbox v-model="form.dryOff" :label="say('switchTheirDryPathsOff')" />
  </FormRow>
</template>
