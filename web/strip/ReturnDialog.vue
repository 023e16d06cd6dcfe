<script setup lang="ts">
import { computed, ref } from 'vue';
import { readLevel } from '@core/levels/decibels';
import { processors } from '@core/processors/registry';
import { newReturn } from '@core/operations/returns';
import { Refusal } from '@core/base/refusal';
import type { Tap } from '@core/session/types';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import * as rules from '@/session/rules';
import { useTargets } from '@/session/targets';
import FormRow from '@/ui/FormRow.vue';
import TapChoice from '@/ui/TapChoice.vue';
import { say } from './texts';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const { reveal } = useTargets();
const effect = ref('reverb');
const name = ref('');
const tap = ref<Tap | ''>('post');
const level = ref('-12');
const dryOff = ref(false);
const NAMES: Readonly<Record<string, string>> = {
  reverb: say('plate'),
  delay: say('slap'),
  compressor: say('parallel'),
};
const EFFECTS = [
  ...processors.map((p) => ({ title: p.name, value: p.type })),
  { title: say('noneYet'), value: '' },
];
const operation = computed(() => {
  const levelDb = readLevel(level.value);
  if (levelDb === undefined)
    throw new Refusal('range', say('levelNoLevelTypeDecibels', { level: level.value }));
  return newReturn(session.document!, props.strips, {
    name: name.value.trim() || NAMES[effect.value] || say('return'),
    effect: effect.value || null,
    tap: tap.value || 'post',
    levelDb,
  });
});
function make() {
  const { commands } = operation.value;
  if (!dryOff.value) return commands;
  return [
    ...commands,
    ...props.strips
      .map((id) => session.strip(id)!)
      .filter((s) => s.kind !== 'output' && s.out.on)
      .map((s) => ({ type: 'strip.out', id: s.id, out: { ...s.out, on: false } }) as const),
  ];
}
</script>

<template>
  <EditDialog
    :title="
      strips.length
        ? say('newReturnFedStripsStrip', { strips: strips.length }, strips.length)
        : say('newReturnTitle')
    "
    :done="say('addTheReturn')"
    :label="say('newReturn')"
    :make="make"
    @did="reveal(operation.made)"
    @close="emit('close')"
  >
    <FormRow :label="say('effect')">
      <v-select v-model="effect" :items="EFFECTS" :aria-label="say('effect')" width="180" autofocus />
      <span>{{ say('name') }}</span>
      <v-text-field
        v-model="name"
        :placeholder="NAMES[effect] ?? say('return')"
        :rules="rules.name"
        :aria-label="say('nameOfTheReturn')"
        width="180"
      />
    </FormRow>
    <template v-if="strips.length">
      <FormRow :label="say('tap')"><TapChoice v-model="tap" /></FormRow>
      <FormRow :label="say('levelTitle')">
        <v-text-field
          v-model="level"
          class="mono"
          :aria-label="say('levelInDecibels')"
          suffix="dB"
          width="110"
        />
        <v-checkbox v-model="dryOff" :label="say('switchTheirDryPathsOff')" />
      </FormRow>
    </template>
    <p class="soft">{{ say('returnFullyWetSoloSafe') }}</p>
  </EditDialog>
</template>
