<script setup lang="ts">
import { mdiArrowExpand, mdiClose } from '@mdi/js';
import { computed } from 'vue';
import { reach } from '@core/session/graph';
import { resetInsert } from '@core/operations/inserts';
import { nameOf } from '@core/session/lookup';
import type { Insert, Strip } from '@core/session/types';
import { useCommands } from '@/commands/commands';
import { useDialogs } from '@/commands/dialogs';
import { useCompare } from './compare';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { useMenu } from '@/ui/menu';
import InsertControls from './InsertControls.vue';
import { useInsertEdit } from './useInsertEdit';
import { say } from './texts';

const props = defineProps<{ strip: Strip; insert: Insert; large?: boolean }>();
const emit = defineEmits<{ close: [] }>();
const session = useSession();
const pick = usePick();
const commands = useCommands();
const dialogs = useDialogs();
const menu = useMenu();
const settings = useSettings();
const compare = useCompare();
const strip = computed(() => props.strip);
const insert = computed(() => props.insert);
const edit = useInsertEdit(strip, insert);
const processor = edit.processor;

/** Strips that may key it: all but itself and what it feeds. */
const keys = computed(() => {
  const fed = reach(session.shown!, [props.strip.id], 'downstream');
  return [
    { title: say('itsOwnSignal'), value: '' },
    ...session
      .shown!.strips.filter((s) => s.id !== props.strip.id && s.kind !== 'output' && !fed.has(s.id))
      .map((s) => ({ title: nameOf(session.shown!, s.id), value: s.id })),
  ];
});
const here = computed(() => ({ strip: props.strip.id, id: props.insert.id }));
const presets = () => commands.run('presets', { strips: [props.strip.id], insert: props.insert.id });
function remove() {
  session.commit(edit.label(say('remove')), [
    { type: 'insert.remove', strip: props.strip.id, id: props.insert.id },
  ]);
  pick.insert = null;
  emit('close');
}
const more = (e: MouseEvent) =>
  menu.open(
    processor.value.name,
    [
      {
        label: say('movePlaceTheFader', {
          place: props.insert.place === 'pre' ? say('after') : say('before'),
        }),
        run: () =>
          session.commit(
            edit.label(say('place')),
            edit.patch({ place: props.insert.place === 'pre' ? 'post' : 'pre' }),
          ),
      },
      {
        label: say('resetAll'),
        run: () => session.change(edit.label(say('defaults')), (d) => resetInsert(d, here.value)),
      },
      { label: say('presetsOfItsKind'), run: presets },
      {
        label: say('keepInViewOrNoMore'),
        disabled: !processor.value.levelDependent,
        run: () => commands.run('keepReduction', { refs: [here.value] }),
      },
      {
        label: say('moveReturn'),
        disabled: props.strip.kind === 'output',
        run: () => commands.run('moveToReturn', { refs: [here.value] }),
      },
      { label: say('removeThisInsert'), danger: true, run: remove },
    ],
    e.currentTarget as Element,
  );
</script>

<template>
  <section
    class="editor"
    :class="large ? 'large' : 'border-b pb-2 mb-1'"
    :aria-label="say('nameOfName2', { name: processor.name, name2: strip.name })"
  >
    <header class="row text ga-1 mb-1">
      <b>{{ processor.name }}</b>
      <span class="soft">{{ insert.place === 'pre' ? say('beforeTheFader') : say('afterTheFader') }}</span>
      <v-spacer />
      <v-btn
        v-if="!large"
        :icon="mdiArrowExpand"
        :aria-label="say('openTheLargeEditor')"
        :title="say('largeEditor')"
        @click="dialogs.show('insert')"
      />
      <v-btn
        :icon="mdiClose"
        :aria-label="say('closeTheEditor')"
        @click="large ? emit('close') : (pick.insert = null)"
      />
    </header>
    <div class="row ga-1 mb-1 text">
      <v-btn
        :variant="insert.on ? 'flat' : 'outlined'"
        :color="insert.on ? 'primary' : undefined"
        :aria-pressed="insert.on"
        @click="
          session.commit(
            edit.label(insert.on ? say('bypass') : say('switchOn')),
            edit.patch({ on: !insert.on }),
          )
        "
        >{{ insert.on ? say('on') : say('bypassed') }}</v-btn
      >
      <v-btn variant="outlined" @click="presets">{{ say('presets') }}</v-btn>
      <v-btn
        variant="outlined"
        :disabled="!insert.on && !compare.on"
        :title="say('hearDryWetOneLoudness')"
        @click="
          compare.on
            ? compare.toggle()
            : compare.begin(
                [here],
                say('nameOfName2', { name: processor.name, name2: strip.name || strip.id }),
              )
        "
        >{{ compare.on && compare.dry ? say('wet') : say('dry') }}</v-btn
      >
      <v-btn variant="outlined" @click="more">{{ say('more') }}</v-btn>
    </div>
    <div v-if="edit.others.value.length" class="together small py-1 px-1">
      <span class="soft">{{ say('othersPicked', { others: edit.others.value.length + 1 }) }}</span>
      <v-radio-group v-model="settings.together" :aria-label="say('editedTogether')">
        <v-radio value="by" :label="say('byTheSameAmount')" />
        <v-radio value="to" :label="say('allAlike')" />
        <v-radio value="alone" :label="say('thisOne')" />
      </v-radio-group>
    </div>
    <div v-if="processor.takesKey" class="key pair ga-2 align-center text mt-1 mx-0 mb-1">
      <span class="soft">{{ say('keyedBy') }}</span>
      <v-select
        :aria-label="say('keyTitle')"
        :model-value="insert.key ?? ''"
        :items="keys"
        @update:model-value="
          (key) => session.commit(edit.label(say('key')), edit.patch({ key: key || null }))
        "
      />
    </div>
    <InsertControls :strip="strip" :insert="insert" :edit="edit" :large="large" />
    <p v-if="strip.kind === 'return' && insert.mix < 1 && processor.ambient" class="caution text">
      {{ say('returnDrySignalComesOwn') }}
    </p>
    <p v-if="processor.levelDependent && insert.place === 'post'" class="caution text">
      {{ say('afterFaderDrivenFaderBefore') }}
    </p>
  </section>
</template>

<style scoped>
.large header {
  font-size: 16px;
}
.together {
  background: color-mix(in srgb, var(--picked) 10%, transparent);
}
.large .key {
  max-width: 320px;
}
</style>
