<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { levelText, readLevel } from '@core/levels/decibels';
import { readPan } from '@core/levels/pan';
import { bulkSends, destinations, fedDestinations, type SendsRequest } from '@core/session/gestures/sends';
import { NEW_SEND_DB } from '@core/session/gestures/returns';
import { nameOf, stripOf } from '@core/session/lookup';
import { Refusal } from '@core/session/refusal';
import type { Tap } from '@core/session/types';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import FormRow from '@/ui/FormRow.vue';
import TapChoice from '@/ui/TapChoice.vue';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const doc = computed(() => session.document!);
const strips = computed(() => props.strips.filter((id) => session.strip(id)?.kind !== 'output'));
const action = ref<SendsRequest['action']>('add');
const fed = computed(() => fedDestinations(doc.value, strips.value));
const goals = computed(() => (action.value === 'add' ? destinations(doc.value, strips.value) : fed.value));
const to = ref<string[]>([]);
watch(
  goals,
  (list) => {
    const kept = to.value.filter((id) => list.includes(id));
    const returns = list.filter((id) => stripOf(doc.value, id).kind === 'return');
    to.value = kept.length ? kept : returns.length === 1 || action.value !== 'add' ? returns.slice(0, 1) : [];
  },
  { immediate: true },
);
const tap = ref<Tap | ''>('post');
const how = ref<'set' | 'by' | 'keep'>('set');
const level = ref(levelText(NEW_SEND_DB).replace('−', '-'));
const by = ref(-3);
const pan = ref('');
const switched = ref<'' | 'on' | 'off'>('');
const SWITCHES = [
  { title: 'as it is', value: '' },
  { title: 'on', value: 'on' },
  { title: 'off', value: 'off' },
];
const copyFader = ref(false);
const dryOff = ref(false);
watch(action, (now) => {
  tap.value = now === 'add' ? 'post' : '';
  how.value = now === 'add' ? 'set' : 'keep';
});
function make() {
  const levelDb = readLevel(level.value);
  if (action.value !== 'remove' && how.value === 'set' && levelDb === undefined)
    throw new Refusal('range', `“${level.value}” is no level. Type decibels such as -12, or off.`);
  const at = pan.value.trim() === '' ? undefined : readPan(pan.value);
  if (pan.value.trim() !== '' && at === undefined)
    throw new Refusal('range', `“${pan.value}” is no pan position. Type C, L30 or R100.`);
  return bulkSends(doc.value, strips.value, {
    action: action.value,
    to: to.value,
    ...(action.value === 'remove'
      ? { dryOff: false }
      : {
          ...(tap.value ? { tap: tap.value } : {}),
          ...(how.value === 'set' ? { levelDb: levelDb! } : how.value === 'by' ? { by: by.value } : {}),
          ...(at === undefined ? {} : { pan: at }),
          ...(switched.value ? { on: switched.value === 'on' } : {}),
          copyFader: copyFader.value && tap.value !== 'post',
          dryOff: dryOff.value,
        }),
  });
}
const label = computed(
  () =>
    `${action.value === 'add' ? 'sends' : action.value === 'change' ? 'other sends' : 'no sends'} to ${to.value.map((id) => nameOf(doc.value, id)).join(', ')}, of ${strips.value.length} strips`,
);
</script>

<template>
  <EditDialog
    :title="`Sends of ${strips.length} ${strips.length === 1 ? 'strip' : 'strips'}`"
    :done="action === 'remove' ? 'Remove the sends' : action === 'change' ? 'Change the sends' : 'Send'"
    :label="label.slice(0, 180)"
    :make="make"
    @close="emit('close')"
  >
    <FormRow label="Do">
      <v-radio-group v-model="action" aria-label="What to do">
        <v-radio value="add" label="add or set" autofocus />
        <v-radio value="change" label="change" :disabled="!fed.length" />
        <v-radio value="remove" label="remove" :disabled="!fed.length" />
      </v-radio-group>
    </FormRow>
    <FormRow :label="action === 'remove' ? 'To be cut' : 'To'" role="group" aria-label="Destinations">
      <v-checkbox
        v-for="id in goals"
        :key="id"
        v-model="to"
        :value="id"
        :aria-label="`${nameOf(doc, id)} ${stripOf(doc, id).kind}`"
      >
        <template #label
          >{{ nameOf(doc, id) }}&nbsp;<span class="soft">{{ stripOf(doc, id).kind }}</span></template
        >
      </v-checkbox>
      <p v-if="!goals.length" class="soft">
        There is nowhere to send them. Add a return first: close this and press R.
      </p>
    </FormRow>
    <template v-if="action !== 'remove'">
      <FormRow label="Tap"><TapChoice v-model="tap" :as-it-is="action === 'change'" /></FormRow>
      <FormRow label="Level">
        <v-radio-group v-model="how" aria-label="Level">
          <v-radio v-if="action === 'change'" value="keep" label="as it is" />
          <v-radio value="set" label="set to" />
          <v-text-field v-model="level" class="mono" aria-label="Level in decibels" suffix="dB" width="96" />
          <template v-if="fed.length">
            <v-radio value="by" label="move by" />
            <v-number-input
              v-model="by"
              class="mono"
              :step="0.5"
              :precision="null"
              aria-label="Move by decibels"
              suffix="dB"
              width="120"
            />
          </template>
        </v-radio-group>
      </FormRow>
      <FormRow label="More">
        <span>pan</span>
        <v-text-field v-model="pan" class="mono" placeholder="as it is" aria-label="Pan" width="90" />
        <span>switch</span>
        <v-select v-model="switched" :items="SWITCHES" aria-label="Switch" width="110" />
        <v-checkbox v-if="tap !== 'post'" v-model="copyFader" label="start from the fader's level and pan" />
        <v-checkbox v-model="dryOff" label="switch their dry paths off" />
      </FormRow>
    </template>
  </EditDialog>
</template>
