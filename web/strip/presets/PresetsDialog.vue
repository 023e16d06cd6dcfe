<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue';
import { processorOf } from '@core/processors/registry';
import { nameOf } from '@core/session/lookup';
import { applyPreset, presetMatches, presetOfInsert, presetOfStrip } from '@core/settings/preset';
import { useSettingsGestures } from '../useSettingsGestures';
import { useNotices } from '@/ui/notices';
import { usePresets, type ListedPreset } from './presets';
import { useSession } from '@/session/session';
import ChangePreview from '@/session/ChangePreview.vue';

/** Presets: found by words, shown with what they would change, applied to the picked strips or to one insert. */
const props = defineProps<{ strips: readonly string[]; insert: string | null }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const presets = usePresets();
const notices = useNotices();
const given = useSettingsGestures();
const query = ref('');
const chosen = ref(0);
const list = ref<HTMLElement | null>(null);
const field = ref<HTMLInputElement | null>(null);
const file = ref<HTMLInputElement | null>(null);
const name = ref('');
const removed = ref<ListedPreset | null>(null);
onMounted(() => {
  void presets.load();
  void nextTick(() => field.value?.focus());
});

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
const target = computed(() =>
  props.strips.length === 0
    ? 'nothing: pick strips first'
    : insert.value
      ? `the ${processorOf(insert.value.type).name} of ${nameOf(session.document!, props.strips[0]!)}`
      : props.strips.length === 1
        ? nameOf(session.document!, props.strips[0]!)
        : `${props.strips.length} strips`,
);
const parts = (p: ListedPreset) =>
  p.preset.kind === 'processor'
    ? processorOf(p.preset.insert.type).name
    : p.preset.inserts.map((i) => processorOf(i.type).shortName).join(' → ') || 'no inserts';

function apply() {
  if (!current.value || !would.value) return;
  if (would.value.refused) return notices.refused(would.value.refused);
  if (!would.value.commands.length) return notices.refused('Pick the strips first that are to have it.');
  const { left } = would.value;
  if (!session.commit(`preset ${current.value.preset.name} on ${target.value}`, would.value.commands)) return;
  if (left.length) notices.refused(`Left out: ${left.join(' ')}`);
  emit('close');
}
async function keep() {
  const doc = session.document;
  if (!doc || !strip.value) return;
  const title = name.value.trim();
  if (!title) return notices.refused('Give the preset a name first.');
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
      list.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }),
    );
  } else if (e.key === 'Enter') apply();
  else return;
  e.preventDefault();
}
</script>

<template>
  <v-dialog :model-value="true" width="860" :transition="false" @update:model-value="$event || emit('close')">
    <div class="panel box" role="dialog" aria-label="Presets">
      <header>
        <b>Presets</b><span class="soft">for {{ target }}</span>
        <button class="plain" aria-label="Close" @click="emit('close')">✕</button>
      </header>
      <div class="body">
        <div class="left">
          <input
            ref="field"
            v-model="query"
            class="field"
            placeholder="Find: name, instrument, processor"
            aria-label="Find a preset"
            @keydown="key"
          />
          <div ref="list" class="list" role="listbox" aria-label="Presets" tabindex="0" @keydown="key">
            <div
              v-for="(p, i) in found"
              :key="`${p.id} ${p.preset.name}`"
              class="item"
              role="option"
              :aria-selected="p === current"
              @click="chosen = i"
              @dblclick="((chosen = i), apply())"
            >
              <span class="title">{{ p.preset.name }}</span>
              <span class="soft kind">{{ p.id ? 'yours' : 'shipped' }}</span>
              <span class="soft parts">{{ parts(p) }}</span>
            </div>
            <p v-if="!found.length" class="soft none">
              No preset answers to that. Fewer words find more; or keep the settings as one, below.
            </p>
          </div>
        </div>
        <div v-if="current" class="right">
          <h2>{{ current.preset.name }}</h2>
          <p class="soft">{{ current.preset.about }}</p>
          <section class="would" aria-label="What would change">
            <h3>This would change</h3>
            <p v-if="!strips.length" class="soft">Pick the strips first that are to have it.</p>
            <p v-else-if="would?.refused" class="danger">{{ would.refused }}</p>
            <ChangePreview v-else-if="would" :commands="would.commands" :most="10" />
            <p v-for="l in would?.left ?? []" :key="l" class="caution">{{ l }}</p>
          </section>
          <div class="row">
            <button class="plain primary" :disabled="!would?.commands.length" @click="apply">Apply</button>
            <button class="plain boxed" @click="presets.save(current.preset)">Save as a file</button>
            <button v-if="current.id" class="plain danger" @click="remove(current)">Remove</button>
          </div>
        </div>
      </div>
      <footer>
        <template v-if="strip">
          <input
            v-model="name"
            class="field"
            :placeholder="`Name for the settings of ${insert ? processorOf(insert.type).name : nameOf(session.document!, strip.id)}`"
            aria-label="Name of a new preset"
            @keydown.enter.prevent="keep"
          />
          <button class="plain boxed" @click="keep">Keep as a preset</button>
        </template>
        <button class="plain boxed" @click="file?.click()">Bring in files…</button>
        <button v-if="removed" class="plain boxed" @click="bringBack">
          Bring “{{ removed.preset.name }}” back
        </button>
        <input
          ref="file"
          type="file"
          hidden
          multiple
          accept=".json,application/json"
          @change="presets.bringIn([...(($event.target as HTMLInputElement).files ?? [])])"
        />
      </footer>
      <p v-if="given.presetFor && !insert" class="soft">The insert is gone: presets are for the strip now.</p>
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  padding: 14px 20px 18px;
  display: flex;
  flex-direction: column;
  max-height: 86vh;
}
header {
  display: flex;
  gap: 10px;
  align-items: baseline;
  font-size: 16px;
}
header .soft {
  font-size: 13px;
}
header .plain {
  margin-left: auto;
}
.body {
  display: grid;
  grid-template-columns: 400px 1fr;
  gap: 20px;
  margin-top: 8px;
  min-height: 0;
}
.left {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.list {
  height: 380px;
  overflow-y: auto;
  margin-top: 6px;
  border: 1px solid var(--rule);
}
.item {
  display: grid;
  grid-template-columns: 1fr auto;
  padding: 4px 8px;
  font-size: 13px;
  cursor: pointer;
  border-left: 3px solid transparent;
}
.item[aria-selected='true'] {
  border-left-color: var(--signal);
  background: color-mix(in srgb, var(--signal) 12%, transparent);
}
.title {
  font-weight: 600;
}
.kind {
  font-size: 11px;
}
.parts {
  grid-column: 1 / 3;
  font-size: 12px;
}
.none {
  padding: 10px;
}
h2 {
  font-size: 15px;
  margin: 0;
}
h3 {
  font-size: 13px;
  margin: 0 0 4px;
}
.would {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
  min-height: 200px;
}
.caution {
  color: var(--caution);
  font-size: 13px;
  margin: 4px 0;
}
.row,
footer {
  display: flex;
  gap: 8px;
}
footer {
  margin-top: 14px;
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}
footer .field {
  width: 300px;
}
</style>
