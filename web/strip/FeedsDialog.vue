<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { Refusal } from '@core/base/refusal';
import { bulkSends, senders, sendersNow } from '@core/operations/sends';
import { nameOf, stripOf } from '@core/session/lookup';
import { useSession } from '@/session/session';
import EditDialog from '@/session/EditDialog.vue';
import FormRow from '@/ui/FormRow.vue';
import SendAction from './SendAction.vue';
import SendFields from './SendFields.vue';
import { useSendsForm } from './sendsForm';
import { say } from './texts';

/** Sends from the other end: what feeds one or several returns and submixes, from many strips at once. */
const props = defineProps<{ strips: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const doc = computed(() => session.document!);
const { form, request, words } = useSendsForm();
const into = computed(() =>
  props.strips.filter((id) => session.strip(id) && session.strip(id)!.kind !== 'source'),
);
const now = computed(() => sendersNow(doc.value, into.value));
const all = computed(() => (form.action === 'add' ? senders(doc.value, into.value) : now.value));
const chosen = ref<string[]>([]);
const wanted = ref('');
const shown = computed(() => {
  const text = wanted.value.trim().toLowerCase();
  return all.value.filter((id) => {
    const { name, family } = stripOf(doc.value, id);
    return `${name} ${family} ${id}`.toLowerCase().includes(text);
  });
});
/** By families, in the session's order. */
const groups = computed(() => {
  const families = new Map<string, string[]>();
  for (const id of shown.value) {
    const { kind, family } = stripOf(doc.value, id);
    const name = kind === 'source' ? family || say('noFamily') : say('busesAndReturns');
    families.set(name, [...(families.get(name) ?? []), id]);
  }
  return [...families];
});
watch(
  () => form.action,
  () => (chosen.value = form.action === 'add' ? [] : [...now.value]),
);
const every = (ids: readonly string[]) => ids.every((id) => chosen.value.includes(id));
function toggle(ids: readonly string[]) {
  const rest = chosen.value.filter((id) => !ids.includes(id));
  chosen.value = every(ids) ? rest : [...rest, ...ids];
}
function make() {
  if (chosen.value.length === 0) throw new Refusal('range', say('chooseSenders'));
  return bulkSends(doc.value, chosen.value, request(into.value));
}
const goals = computed(() => into.value.map((id) => nameOf(doc.value, id)).join(', '));
const label = computed(() =>
  say('actionStripsStrips', { action: words().step, to: goals.value, strips: chosen.value.length }),
);
</script>

<template>
  <EditDialog
    :title="say('whatFeeds', { goals })"
    :done="words().done"
    :label="label.slice(0, 180)"
    :make="make"
    @close="emit('close')"
  >
    <SendAction v-model="form.action" :there="now.length > 0" />
    <FormRow :label="say('from')" role="group" :aria-label="say('senders')">
      <v-text-field
        v-model="wanted"
        :placeholder="say('nameOrFamily')"
        :aria-label="say('nameOrFamily')"
        width="180"
        @keydown.enter.stop
      />
      <v-btn variant="outlined" :disabled="!shown.length" @click="toggle(shown)" @keydown.enter.stop>{{
        every(shown) && shown.length ? say('noneOfThese') : say('allOfThese', { count: shown.length })
      }}</v-btn>
      <div class="w-100 overflow-y-auto" :style="{ maxHeight: '210px' }">
        <div v-for="[family, ids] in groups" :key="family" class="d-flex flex-wrap align-center">
          <v-btn
            class="name"
            :aria-pressed="every(ids)"
            :title="say('pickB', { b: family })"
            @click="toggle(ids)"
            @keydown.enter.stop
            >{{ family }}</v-btn
          >
          <v-checkbox
            v-for="id in ids"
            :key="id"
            v-model="chosen"
            class="me-2"
            :value="id"
            :label="nameOf(doc, id)"
          />
        </div>
        <p v-if="!shown.length" class="soft">
          {{ say(all.length ? 'noSenderIsCalledSo' : 'nothingCanFeedIt') }}
        </p>
      </div>
    </FormRow>
    <SendFields v-if="form.action !== 'remove'" v-model="form" :there="now.length > 0" />
  </EditDialog>
</template>
