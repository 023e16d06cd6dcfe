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
    <div class="row" role="radiogroup" aria-label="What to do">
      <span>Do</span>
      <label><input v-model="action" type="radio" value="add" /> add or set</label>
      <label><input v-model="action" type="radio" value="change" :disabled="!fed.length" /> change</label>
      <label><input v-model="action" type="radio" value="remove" :disabled="!fed.length" /> remove</label>
    </div>
    <div class="row" role="group" aria-label="Destinations">
      <span>{{ action === 'remove' ? 'To be cut' : 'To' }}</span>
      <label v-for="id in goals" :key="id"
        ><input v-model="to" type="checkbox" :value="id" /> {{ nameOf(doc, id) }}
        <span class="soft">{{ stripOf(doc, id).kind }}</span></label
      >
      <p v-if="!goals.length" class="soft">
        There is nowhere to send them. Make a return first: close this and press R.
      </p>
    </div>
    <template v-if="action !== 'remove'">
      <div class="row" role="radiogroup" aria-label="Tap">
        <span>Tap</span>
        <label v-if="action === 'change'"><input v-model="tap" type="radio" value="" /> as it is</label>
        <label><input v-model="tap" type="radio" value="post" /> post-fader</label>
        <label><input v-model="tap" type="radio" value="pre" /> pre-fader</label>
        <label><input v-model="tap" type="radio" value="input" /> input</label>
      </div>
      <div class="row" role="radiogroup" aria-label="Level">
        <span>Level</span>
        <label v-if="action === 'change'"><input v-model="how" type="radio" value="keep" /> as it is</label>
        <label
          ><input v-model="how" type="radio" value="set" /> set to
          <input v-model="level" class="field mono" size="6" aria-label="Level in decibels" /> dB</label
        >
        <label v-if="fed.length"
          ><input v-model="how" type="radio" value="by" /> move by
          <input
            v-model.number="by"
            class="field mono"
            type="number"
            step="0.5"
            aria-label="Move by decibels"
            style="width: 74px"
          />
          dB</label
        >
      </div>
      <div class="row">
        <span>More</span>
        <label
          >pan <input v-model="pan" class="field mono" size="5" placeholder="as it is" aria-label="Pan"
        /></label>
        <label
          >switch
          <select v-model="switched" class="field" aria-label="Switch">
            <option value="">as it is</option>
            <option value="on">on</option>
            <option value="off">off</option>
          </select></label
        >
        <label v-if="tap !== 'post'"
          ><input v-model="copyFader" type="checkbox" /> start from the fader's level and pan</label
        >
        <label><input v-model="dryOff" type="checkbox" /> switch their dry paths off</label>
      </div>
    </template>
  </EditDialog>
</template>
