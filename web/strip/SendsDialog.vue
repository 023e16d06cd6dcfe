<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { levelText, readLevel } from '@core/levels/decibels';
import { readPan } from '@core/levels/pan';
import { bulkSends, destinations, fedDestinations, type SendsRequest } from '@core/operations/sends';
import { NEW_SEND_DB } from '@core/operations/returns';
import { nameOf, stripOf } from '@core/session/lookup';
import { Refusal } from '@core/base/refusal';
import type { Tap } from '@core/session/types';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import FormRow from '@/ui/FormRow.vue';
import TapChoice from '@/ui/TapChoice.vue';
import { kindWord } from '@/session/words';
import { say } from './texts';

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
  { title: say('asItIs'), value: '' },
  { title: say('on'), value: 'on' },
  { title: say('off'), value: 'off' },
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
    throw new Refusal('range', say('levelNoLevelTypeDecibels', { level: level.value }));
  const at = pan.value.trim() === '' ? undefined : readPan(pan.value);
  if (pan.value.trim() !== '' && at === undefined)
    throw new Refusal('range', say('panNoPanPositionType', { pan: pan.value }));
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
const label = computed(() =>
  say('actionStripsStrips', {
    action:
      action.value === 'add' ? say('sends3') : action.value === 'change' ? say('otherSends') : say('noSends'),
    to: to.value.map((id) => nameOf(doc.value, id)).join(', '),
    strips: strips.value.length,
  }),
);
</script>

<template>
  <EditDialog
    :title="say('sendsOfStripsStrip', { strips: strips.length }, strips.length)"
    :done="
      action === 'remove'
        ? say('removeTheSends')
        : action === 'change'
          ? say('changeTheSends')
          : say('sendTitle')
    "
    :label="label.slice(0, 180)"
    :make="make"
    @close="emit('close')"
  >
    <FormRow :label="say('do')">
      <v-radio-group v-model="action" :aria-label="say('whatToDo')">
        <v-radio value="add" :label="say('addOrSet')" autofocus />
        <v-radio value="change" :label="say('change')" :disabled="!fed.length" />
        <v-radio value="remove" :label="say('remove')" :disabled="!fed.length" />
      </v-radio-group>
    </FormRow>
    <FormRow
      :label="action === 'remove' ? say('toBeCut') : say('to')"
      role="group"
      :aria-label="say('destinations')"
    >
      <v-checkbox
        v-for="id in goals"
        :key="id"
        v-model="to"
        :value="id"
        :aria-label="`${nameOf(doc, id)} ${kindWord(stripOf(doc, id).kind)}`"
      >
        <template #label
          >{{ nameOf(doc, id) }}&nbsp;<span class="soft">{{
            kindWord(stripOf(doc, id).kind)
          }}</span></template
        >
      </v-checkbox>
      <p v-if="!goals.length" class="soft">{{ say('thereNowhereSendThemAdd') }}</p>
    </FormRow>
    <template v-if="action !== 'remove'">
      <FormRow :label="say('tap')"><TapChoice v-model="tap" :as-it-is="action === 'change'" /></FormRow>
      <FormRow :label="say('levelTitle')">
        <v-radio-group v-model="how" :aria-label="say('levelTitle')">
          <v-radio v-if="action === 'change'" value="keep" :label="say('asItIs')" />
          <v-radio value="set" :label="say('setTo')" />
          <v-text-field
            v-model="level"
            class="mono"
            :aria-label="say('levelInDecibels')"
            suffix="dB"
            width="96"
          />
          <template v-if="fed.length">
            <v-radio value="by" :label="say('moveBy')" />
            <v-number-input
              v-model="by"
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
          v-model="pan"
          class="mono"
          :placeholder="say('asItIs')"
          :aria-label="say('panTitle')"
          width="90"
        />
        <span>{{ say('switch') }}</span>
        <v-select v-model="switched" :items="SWITCHES" :aria-label="say('switchTitle')" width="110" />
        <v-checkbox v-if="tap !== 'post'" v-model="copyFader" :label="say('startFromFadersLevelPan')" />
        <v-checkbox v-model="dryOff" :label="say('switchTheirDryPathsOff')" />
      </FormRow>
    </template>
  </EditDialog>
</template>
