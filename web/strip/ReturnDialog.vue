<script setup lang="ts">
import { computed, ref } from 'vue';
import { readLevel } from '@core/levels/decibels';
import { processors } from '@core/processors/registry';
import { newReturn } from '@core/session/gestures/returns';
import { Refusal } from '@core/session/refusal';
import type { Tap } from '@core/session/types';
import { useActions } from '@/commands/actions';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const actions = useActions();
const effect = ref('reverb');
const name = ref('');
const tap = ref<Tap>('post');
const level = ref('-12');
const dryOff = ref(false);
const NAMES: Readonly<Record<string, string>> = { reverb: 'Plate', delay: 'Slap', compressor: 'Parallel' };
const gesture = computed(() => {
  const levelDb = readLevel(level.value);
  if (levelDb === undefined)
    throw new Refusal('range', `“${level.value}” is no level. Type decibels such as -12, or off.`);
  return newReturn(session.document!, props.strips, {
    name: name.value.trim() || NAMES[effect.value] || 'Return',
    effect: effect.value || null,
    tap: tap.value,
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
    done="Make the return"
    label="new return"
    :make="make"
    @did="actions.reveal(gesture.made)"
    @close="emit('close')"
  >
    <div class="row">
      <span>Effect</span>
      <select v-model="effect" class="field" aria-label="Effect">
        <option v-for="p in processors" :key="p.type" :value="p.type">{{ p.name }}</option>
        <option value="">none yet</option>
      </select>
      <label
        >name
        <input
          v-model="name"
          class="field"
          :placeholder="NAMES[effect] ?? 'Return'"
          aria-label="Name of the return"
      /></label>
    </div>
    <template v-if="strips.length">
      <div class="row" role="radiogroup" aria-label="Tap">
        <span>Tap</span>
        <label><input v-model="tap" type="radio" value="post" /> post-fader</label>
        <label><input v-model="tap" type="radio" value="pre" /> pre-fader</label>
        <label><input v-model="tap" type="radio" value="input" /> input</label>
      </div>
      <div class="row">
        <span>Level</span>
        <label><input v-model="level" class="field mono" size="6" aria-label="Level in decibels" /> dB</label>
        <label><input v-model="dryOff" type="checkbox" /> switch their dry paths off</label>
      </div>
    </template>
    <p class="soft">The return is fully wet and solo-safe; the dry signal keeps its own path.</p>
  </EditDialog>
</template>
