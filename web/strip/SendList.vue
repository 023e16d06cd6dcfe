<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { levelSpoken, levelText, readLevel } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP } from '@core/levels/faderLaw';
import { panText, readPan } from '@core/levels/pan';
import { CELL_DEFAULT } from '@core/operations/cells';
import { nameOf } from '@core/session/lookup';
import type { Send, Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import { useSession } from '@/session/session';
import { say } from './texts';

/** The sends of a strip: level, pan, tap, on or off. */
const props = defineProps<{ strip: Strip }>();
const session = useSession();
const name = (x: Send) => nameOf(session.now!, x.to);
const label = (what: string) => `${what} ${props.strip.name || props.strip.id}`;
const edit = (x: Send, patch: Partial<Send>) => [
  { type: 'send.set', strip: props.strip.id, id: x.id, patch } as const,
];
const TAPS = [
  { title: say('postFader'), value: 'post' },
  { title: say('preFader'), value: 'pre' },
  { title: say('input'), value: 'input' },
] as const;
</script>

<template>
  <section class="border-t mt-2" :aria-label="say('sends')">
    <h2>{{ say('sends') }}</h2>
    <div v-for="x in strip.sends" :key="x.id">
      <ParameterSlider
        :label="name(x)"
        :value="x.levelDb ?? FADER_FLOOR"
        :min="FADER_FLOOR"
        :max="FADER_TOP"
        :default="CELL_DEFAULT"
        :step="0.1"
        :text="levelText(x.levelDb)"
        :spoken="levelSpoken(x.levelDb)"
        :read="readLevel"
        :control="{ part: 'send', owner: strip.id, id: x.id, control: 'level' }"
        drag="inspector"
        :what="label(say('sendToName', { name: name(x) }))"
        :make="(v) => edit(x, { levelDb: v })"
      />
      <ParameterSlider
        :label="say('itsPan')"
        :value="x.pan"
        :min="-1"
        :max="1"
        :default="CELL_DEFAULT"
        :step="0.01"
        :text="panText(x.pan)"
        :read="readPan"
        :control="{ part: 'send', owner: strip.id, id: x.id, control: 'pan' }"
        drag="inspector pan"
        :what="label(say('panOfASend'))"
        :make="(v) => edit(x, { pan: v ?? 0 })"
      />
      <div class="row ga-1 mt-0 me-0 mb-1">
        <v-select
          :model-value="x.tap"
          :items="TAPS"
          :aria-label="say('tapSendName', { name: name(x) })"
          @update:model-value="(tap) => session.commit(label(say('tapOfASend')), edit(x, { tap }))"
        />
        <v-btn
          variant="outlined"
          :aria-pressed="x.on"
          @click="session.commit(label(say('switchASend')), edit(x, { on: !x.on }))"
          >{{ x.on ? say('onTitle') : say('offTitle') }}</v-btn
        >
        <v-btn
          :icon="mdiClose"
          :aria-label="say('removeSendName', { name: name(x) })"
          :title="say('removeTitle')"
          @click="
            session.commit(label(say('removeASend')), [{ type: 'send.remove', strip: strip.id, id: x.id }])
          "
        />
      </div>
    </div>
  </section>
</template>
