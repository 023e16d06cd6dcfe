<script setup lang="ts">
import { computed } from 'vue';
import { reach } from '@core/routing/graph';
import { resetInsert } from '@core/session/gestures/inserts';
import { nameOf } from '@core/session/lookup';
import type { Insert, Strip } from '@core/session/types';
import { useActions } from '@/commands/actions';
import { useCompare } from './compare';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import InsertControls from './InsertControls.vue';
import { useInsertEdit } from './useInsertEdit';

const props = defineProps<{ strip: Strip; insert: Insert; large?: boolean }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pick = usePick();
const actions = useActions();
const settings = useSettings();
const compare = useCompare();
const strip = computed(() => props.strip);
const insert = computed(() => props.insert);
const edit = useInsertEdit(strip, insert);
const processor = edit.processor;

/** Strips that may key it: all but itself and what it feeds. */
const keys = computed(() => {
  const fed = reach(session.shown!, [props.strip.id], 'downstream');
  return session.shown!.strips.filter(
    (s) => s.id !== props.strip.id && s.kind !== 'output' && !fed.has(s.id),
  );
});
function remove() {
  session.commit(edit.label('remove'), [
    { type: 'insert.remove', strip: props.strip.id, id: props.insert.id },
  ]);
  pick.insert = null;
  emit('close');
}
const more = (e: MouseEvent) =>
  actions.openMenu(
    processor.value.name,
    [
      {
        label: `Move ${props.insert.place === 'pre' ? 'after' : 'before'} the fader`,
        run: () =>
          session.commit(
            edit.label('place'),
            edit.patch({ place: props.insert.place === 'pre' ? 'post' : 'pre' }),
          ),
      },
      {
        label: 'All at their defaults',
        run: () =>
          session.change(edit.label('defaults'), (d) =>
            resetInsert(d, { strip: props.strip.id, id: props.insert.id }),
          ),
      },
      { label: 'Presets of its kind…', run: () => actions.openPresets([props.strip.id], props.insert.id) },
      {
        label: 'Move it to a return…',
        disabled: props.strip.kind === 'output',
        run: () => actions.openMove([{ strip: props.strip.id, id: props.insert.id }]),
      },
      { label: 'Remove this insert', danger: true, run: remove },
    ],
    e.currentTarget as Element,
  );
</script>

<template>
  <section class="editor" :class="{ large }" :aria-label="`${processor.name} of ${strip.name}`">
    <header>
      <b>{{ processor.name }}</b>
      <span class="soft">{{ insert.place === 'pre' ? 'before the fader' : 'after the fader' }}</span>
      <span class="buttons">
        <button
          v-if="!large"
          class="plain"
          aria-label="Open the large editor"
          title="Large editor"
          @click="actions.dialog = { kind: 'insert', strips: [strip.id] }"
        >
          ⤢
        </button>
        <button
          class="plain"
          aria-label="Close the editor"
          @click="large ? emit('close') : (pick.insert = null)"
        >
          ✕
        </button>
      </span>
    </header>
    <div class="row">
      <button
        class="plain boxed"
        :aria-pressed="insert.on"
        :class="{ primary: insert.on }"
        @click="
          session.commit(edit.label(insert.on ? 'bypass' : 'switch on'), edit.patch({ on: !insert.on }))
        "
      >
        {{ insert.on ? 'On' : 'Bypassed' }}
      </button>
      <button class="plain boxed" @click="actions.openPresets([strip.id], insert.id)">Presets…</button>
      <button
        class="plain boxed"
        :disabled="!insert.on && !compare.on"
        title="Hear it dry and wet, at one loudness"
        @click="
          compare.on
            ? compare.toggle()
            : compare.begin(
                [{ strip: strip.id, id: insert.id }],
                `${processor.name} of ${strip.name || strip.id}`,
              )
        "
      >
        {{ compare.on && compare.dry ? 'Wet' : 'Dry' }}
      </button>
      <button class="plain boxed" @click="more">More…</button>
    </div>
    <div v-if="edit.others.value.length" class="row together" role="radiogroup" aria-label="Edited together">
      <span class="soft">{{ edit.others.value.length + 1 }} picked:</span>
      <label><input v-model="settings.together" type="radio" value="by" /> by the same amount</label>
      <label><input v-model="settings.together" type="radio" value="to" /> all alike</label>
      <label><input v-model="settings.together" type="radio" value="alone" /> this one</label>
    </div>
    <label v-if="processor.takesKey" class="key"
      ><span>Key</span>
      <select
        class="field"
        aria-label="Key"
        :value="insert.key ?? ''"
        @change="
          session.commit(
            edit.label('key'),
            edit.patch({ key: ($event.target as HTMLSelectElement).value || null }),
          )
        "
      >
        <option value="">its own signal</option>
        <option v-for="k in keys" :key="k.id" :value="k.id">{{ nameOf(session.shown!, k.id) }}</option>
      </select></label
    >
    <InsertControls :strip="strip" :insert="insert" :edit="edit" :large="large" />
    <p v-if="strip.kind === 'return' && insert.mix < 1 && processor.ambient" class="caution">
      On a return the dry signal comes by its own path already: a mix below 100 % doubles it.
    </p>
    <p v-if="processor.levelDependent && insert.place === 'post'" class="caution">
      After the fader it is driven by the fader: before it, its work stays the same.
    </p>
  </section>
</template>

<style scoped>
.editor:not(.large) {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  margin-top: 8px;
}
header {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 13px;
}
.large header {
  font-size: 16px;
}
.buttons {
  margin-left: auto;
  white-space: nowrap;
}
.row {
  display: flex;
  gap: 6px;
  margin: 6px 0;
  font-size: 13px;
}
.together {
  flex-wrap: wrap;
  font-size: 12px;
  gap: 2px 10px;
  background: color-mix(in srgb, var(--picked) 10%, transparent);
  padding: 4px 6px;
}
.together label {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.key {
  display: grid;
  grid-template-columns: 72px 1fr;
  gap: 8px;
  align-items: center;
  font-size: 13px;
  margin: 3px 0 6px;
}
.key span {
  color: var(--ink-soft);
}
.large .key {
  max-width: 320px;
}
.caution {
  color: var(--caution);
  font-size: 13px;
  margin: 6px 0;
}
</style>
