<script setup lang="ts">
import { computed, ref } from 'vue';
import { readLevel } from '@core/levels/decibels';
import { processors } from '@core/processors/registry';
import { newReturn } from '@core/session/gestures/returns';
import { Refusal } from '@core/session/refusal';
import type { Tap } from '@core/session/types';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import * as rules from '@/session/rules';
import { useTargets } from '@/session/targets';
import FormRow from '@/ui/FormRow.vue';
import TapChoice from '@/ui/TapChoice.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const { reveal } = useTargets();
const effect = ref('reverb');
const name = ref('');
const tap = ref<Tap | ''>('post');
const level = ref('-12');
const dryOff = ref(false);
const NAMES: Readonly<Record<string, string>> = { reverb: 'Plate', delay: 'Slap', compressor: 'Parallel' };
const EFFECTS = [
  ...processors.map((p) => ({ title: p.name, value: p.type })),
  { title: 'none yet', value: '' },
];
const gesture = computed(() => {
  const levelDb = readLevel(level.value);
  if (levelDb === undefined)
    throw new Refusal('range', `“${level.value}” is no level. Type decibels such as -12, or off.`);
  return newReturn(session.document!, props.strips, {
    name: name.value.trim() || NAMES[effect.value] || 'Return',
    effect: effect.value || null,
    tap: tap.value || 'post',
    levelDb,
  });
});
function make() {
  const { commands } = gesture.value;
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
        ? `New return, fed by ${strips.length} ${strips.length === 1 ? 'strip' : 'strips'}`
        : 'New return'
    "
    done="Add the return"
    label="new return"
    :make="make"
    @did="reveal(gesture.made)"
    @close="emit('close')"
  >
    <FormRow label="Effect">
      <v-select v-model="effect" :items="EFFECTS" aria-label="Effect" width="180" autofocus />
      <span>name</span>
      <v-text-field
        v-model="name"
        :placeholder="NAMES[effect] ?? 'Return'"
        :rules="rules.name"
        aria-label="Name of the return"
        width="180"
      />
    </FormRow>
    <template v-if="strips.length">
      <FormRow label="Tap"><TapChoice v-model="tap" /></FormRow>
      <FormRow label="Level">
        <v-text-field v-model="level" class="mono" aria-label="Level in decibels" suffix="dB" width="110" />
        <v-checkbox v-model="dryOff" label="switch their dry paths off" />
      </FormRow>
    </template>
    <p class="soft">The return is fully wet and solo-safe; the dry signal keeps its own path.</p>
  </EditDialog>
</template>
