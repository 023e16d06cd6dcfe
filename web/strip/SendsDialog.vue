<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { bulkSends, destinations, fedDestinations } from '@core/operations/sends';
import { nameOf, stripOf } from '@core/session/lookup';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import FormRow from '@/ui/FormRow.vue';
import { kindWord } from '@/session/words';
import SendAction from './SendAction.vue';
import SendFields from './SendFields.vue';
import { useSendsForm } from './sendsForm';
import { say } from './texts';

const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const doc = computed(() => session.document!);
const strips = computed(() => props.strips.filter((id) => session.strip(id)?.kind !== 'output'));
const { form, request, words } = useSendsForm();
const fed = computed(() => fedDestinations(doc.value, strips.value));
const goals = computed(() => (form.action === 'add' ? destinations(doc.value, strips.value) : fed.value));
const to = ref<string[]>([]);
watch(
  goals,
  (list) => {
    const kept = to.value.filter((id) => list.includes(id));
    const returns = list.filter((id) => stripOf(doc.value, id).kind === 'return');
    to.value = kept.length ? kept : returns.length === 1 || form.action !== 'add' ? returns.slice(0, 1) : [];
  },
  { immediate: true },
);
const make = () => bulkSends(doc.value, strips.value, request(to.value));
const label = computed(() =>
  say('actionStripsStrips', {
    action: words().step,
    to: to.value.map((id) => nameOf(doc.value, id)).join(', '),
    strips: strips.value.length,
  }),
);
</script>

<template>
  <EditDialog
    :title="say('sendsOfStripsStrip', { strips: strips.length }, strips.length)"
    :done="words().done"
    :label="label.slice(0, 180)"
    :make="make"
    @close="emit('close')"
  >
    <SendAction v-model="form.action" :there="fed.length > 0" />
    <FormRow
      :label="form.action === 'remove' ? say('toBeCut') : say('to')"
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
    <SendFields v-if="form.action !== 'remove'" v-model="form" :there="fed.length > 0" />
  </EditDialog>
</template>
