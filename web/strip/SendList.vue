<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { levelSpoken, levelText, readLevel } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP } from '@core/levels/faderLaw';
import { panText, readPan } from '@core/levels/pan';
import { CELL_DEFAULT } from '@core/session/gestures/cells';
import { nameOf } from '@core/session/lookup';
import type { Send, Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import { useSession } from '@/session/session';

/** The sends of a strip: level, pan, tap, on or off. */
const props = defineProps<{ strip: Strip }>();
const session = useSession();
const name = (x: Send) => nameOf(session.now!, x.to);
const label = (what: string) => `${what} ${props.strip.name || props.strip.id}`;
const edit = (x: Send, patch: Partial<Send>) => [
  { type: 'send.set', strip: props.strip.id, id: x.id, patch } as const,
];
const TAPS = [
  { title: 'post-fader', value: 'post' },
  { title: 'pre-fader', value: 'pre' },
  { title: 'input', value: 'input' },
] as const;
</script>

<template>
  <section class="border-t mt-2" aria-label="Sends">
    <h2>Sends</h2>
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
        gesture="inspector"
        :what="label(`send to ${name(x)},`)"
        :make="(v) => edit(x, { levelDb: v })"
      />
      <ParameterSlider
        label="its pan"
        :value="x.pan"
        :min="-1"
        :max="1"
        :default="CELL_DEFAULT"
        :step="0.01"
        :text="panText(x.pan)"
        :read="readPan"
        :control="{ part: 'send', owner: strip.id, id: x.id, control: 'pan' }"
        gesture="inspector pan"
        :what="label('pan of a send,')"
        :make="(v) => edit(x, { pan: v ?? 0 })"
      />
      <div class="row ga-1 mt-0 me-0 mb-1">
        <v-select
          :model-value="x.tap"
          :items="TAPS"
          :aria-label="`Tap of the send to ${name(x)}`"
          @update:model-value="(tap) => session.commit(label('tap of a send,'), edit(x, { tap }))"
        />
        <v-btn
          variant="outlined"
          :aria-pressed="x.on"
          @click="session.commit(label('switch a send,'), edit(x, { on: !x.on }))"
          >{{ x.on ? 'On' : 'Off' }}</v-btn
        >
        <v-btn
          :icon="mdiClose"
          :aria-label="`Remove the send to ${name(x)}`"
          title="Remove"
          @click="
            session.commit(label('remove a send,'), [{ type: 'send.remove', strip: strip.id, id: x.id }])
          "
        />
      </div>
    </div>
  </section>
</template>
