<script setup lang="ts">
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue';
import { processorOf } from '@core/processors/registry';
import { levelText } from '@core/levels/decibels';
import { nameOf } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { applyPreset, presetMatches, presetOfInsert, presetOfStrip } from '@core/settings/preset';
import { useNotices } from '@/ui/notices';
import { useAudition } from './audition';
import { usePresets, type ListedPreset } from './presets';
import { useSession } from '@/session/session';
import ChangePreview from '@/session/ChangePreview.vue';
import * as rules from '@/session/rules';
import BoxDialog from '@/ui/BoxDialog.vue';
import FilePick from '@/ui/FilePick.vue';
import { say } from '../texts';

/** Presets: found by words, shown with what they would change, applied to the picked strips or to one insert. */
const props = defineProps<{ strips: readonly string[]; insert: string | null }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const presets = usePresets();
const notices = useNotices();
const query = ref('');
const chosen = ref(0);
const list = useTemplateRef<{ $el: HTMLElement }>('list');
const file = useTemplateRef('file');
const name = ref('');
const removed = ref<ListedPreset | null>(null);
onMounted(() => void presets.load());

const strip = computed(() => (props.strips[0] ? session.strip(props.strips[0]) : undefined));
const insert = computed(() => strip.value?.inserts.find((i) => i.id === props.insert));
const found = computed(() =>
  presets.all.filter(
    ({ preset }) =>
      presetMatches(preset, query.value) &&
      (!insert.value || (preset.kind === 'processor' && preset.insert.type === insert.value.type)),
  ),
);
watch([query, () => presets.own], () => (chosen.value = 0));
const current = computed(() => found.value[Math.min(chosen.value, found.value.length - 1)]);
const would = computed(() => {
  if (!current.value || !props.strips.length || !session.document) return null;
  try {
    return {
      ...applyPreset(session.document, current.value.preset, props.strips, props.insert),
      refused: null,
    };
  } catch (error) {
    return { commands: [], left: [], refused: (error as Error).message };
  }
});
/** What the chosen preset does to a session, for the ear. */
const heard = computed(() => {
  const { value } = current;
  if (!value || !would.value?.commands.length) return null;
  const { strips, insert: id } = props;
  return (doc: Session) => applyPreset(doc, value.preset, strips, id).commands;
});
const { on: listening, matched, difference, end: stopListening } = useAudition(() => heard.value);
const target = computed(() =>
  props.strips.length === 0
    ? say('nothingPickStripsFirst')
    : insert.value
      ? say('theNameOfName2', {
          name: processorOf(insert.value.type).name,
          name2: nameOf(session.document!, props.strips[0]!),
        })
      : props.strips.length === 1
        ? nameOf(session.document!, props.strips[0]!)
        : say('manyStrips', { count: props.strips.length }),
);
const parts = (p: ListedPreset) =>
  p.preset.kind === 'processor'
    ? processorOf(p.preset.insert.type).name
    : p.preset.inserts.map((i) => processorOf(i.type).shortName).join(' → ') || say('noInserts');

function apply() {
  if (!current.value || !would.value) return;
  if (would.value.refused) return notices.refused(would.value.refused);
  if (!would.value.commands.length) return notices.refused(say('pickStripsFirstHave'));
  const { left } = would.value;
  stopListening();
  if (
    !session.commit(
      say('presetNameOnTarget', { name: current.value.preset.name, target: target.value }),
      would.value.commands,
    )
  )
    return;
  if (left.length) notices.refused(say('leftOutLeft', { left: left.join(' ') }));
  emit('close');
}
async function keep() {
  const doc = session.document;
  if (!doc || !strip.value) return;
  const title = name.value.trim();
  if (!title) return notices.refused(say('givePresetNameFirst'));
  await presets.keep(
    insert.value
      ? presetOfInsert(doc, strip.value.id, insert.value, title)
      : presetOfStrip(doc, strip.value.id, title),
  );
  name.value = '';
  query.value = title;
}
async function remove(p: ListedPreset) {
  await presets.remove(p);
  removed.value = p;
}
async function bringBack() {
  if (removed.value) await presets.keep(removed.value.preset);
  removed.value = null;
}
function key(e: KeyboardEvent) {
  const way = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0;
  if (way) {
    chosen.value = Math.max(0, Math.min(found.value.length - 1, chosen.value + way));
    void nextTick(() =>
      list.value?.$el.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }),
    );
  } else if (e.key === 'Enter') apply();
  else if (e.key === 'l' && e.altKey) listening.value = !listening.value;
  else return;
  e.preventDefault();
}
</script>

<template>
  <BoxDialog :title="say('presets')" :width="860" @update:model-value="$event || emit('close')">
    <template #head
      ><span class="soft small">{{ say('forTarget', { target }) }}</span></template
    >
    <div class="body ga-5">
      <div class="left">
        <v-text-field
          v-model="query"
          :placeholder="say('findNameInstrumentProcessor')"
          :aria-label="say('findAPreset')"
          hide-details
          autofocus
          @keydown="key"
        />
        <v-list
          ref="list"
          class="list overflow-y-auto mt-1 border-thin"
          role="listbox"
          :aria-label="say('presets')"
          bg-color="transparent"
        >
          <v-list-item
            v-for="(p, i) in found"
            :key="`${p.id} ${p.preset.name}`"
            role="option"
            :aria-selected="p === current"
            :active="p === current"
            :title="p.preset.name"
            :subtitle="parts(p)"
            @click="chosen = i"
            @dblclick="((chosen = i), apply())"
            @keydown="key"
          >
            <template #append
              ><span class="soft small">{{ p.id ? say('yours') : say('shipped') }}</span></template
            >
          </v-list-item>
          <p v-if="!found.length" class="soft none pa-2">{{ say('noPresetAnswersFewerWords') }}</p>
        </v-list>
      </div>
      <div v-if="current">
        <h2 class="title ma-0">{{ current.preset.name }}</h2>
        <p class="soft">{{ current.preset.about }}</p>
        <section class="would border-t pb-2" :aria-label="say('whatWouldChange')">
          <h2>{{ say('thisWouldChange') }}</h2>
          <p v-if="!strips.length" class="soft">{{ say('pickStripsFirstHave') }}</p>
          <p v-else-if="would?.refused" class="text-error">{{ would.refused }}</p>
          <ChangePreview v-else-if="would" :commands="would.commands" :most="10" />
          <p v-for="l in would?.left ?? []" :key="l" class="caution">{{ l }}</p>
        </section>
        <div class="row">
          <v-switch v-model="listening" :label="say('hearIt')" :title="say('hearItTitle')" />
          <v-switch v-model="matched" :label="say('asLoudAsNow')" :disabled="!listening" />
          <span v-if="listening && matched && difference !== null" class="mono soft small">{{
            say('takenBack', { by: levelText(-difference) })
          }}</span>
        </div>
        <div class="row">
          <v-btn variant="flat" color="primary" :disabled="!would?.commands.length" @click="apply">{{
            say('apply')
          }}</v-btn>
          <v-btn variant="outlined" @click="presets.save(current.preset)">{{ say('saveAsFile') }}</v-btn>
          <v-btn v-if="current.id" color="error" @click="remove(current)">{{ say('delete') }}</v-btn>
        </div>
      </div>
    </div>
    <p v-if="props.insert && !insert" class="soft">{{ say('insertGonePresetsStripNow') }}</p>
    <template #actions>
      <template v-if="strip">
        <v-text-field
          v-model="name"
          :placeholder="
            say('nameSettingsInsert', {
              insert: insert ? processorOf(insert.type).name : nameOf(session.document!, strip.id),
            })
          "
          :rules="rules.name"
          :aria-label="say('nameNewPreset')"
          max-width="300"
          @keydown.enter.prevent="keep"
        />
        <v-btn variant="outlined" @click="keep">{{ say('saveAsPreset') }}</v-btn>
      </template>
      <v-btn variant="outlined" @click="file?.choose()">{{ say('addFiles') }}</v-btn>
      <v-btn v-if="removed" variant="outlined" @click="bringBack">{{
        say('bringNameBack', { name: removed.preset.name })
      }}</v-btn>
    </template>
    <FilePick
      ref="file"
      :label="say('presetFiles')"
      accept=".json,application/json"
      multiple
      @files="presets.bringIn"
    />
  </BoxDialog>
</template>

<style scoped>
.body {
  display: grid;
  grid-template-columns: 400px 1fr;
}
.list {
  height: 380px;
}
.title {
  font-size: 15px;
}
.would {
  min-height: 200px;
}
</style>
