<script setup lang="ts">
import { computed } from 'vue';
import { effectiveLevel } from '@core/groups/vca';
import { levelSpoken, levelText, readLevel } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP } from '@core/levels/faderLaw';
import { panText, readPan } from '@core/levels/pan';
import type { StripPatch } from '@core/session/commands/types';
import { CELL_DEFAULT } from '@core/session/gestures/cells';
import type { Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import { useSession } from '@/session/session';

/** Trim, level, pan and width of a strip, and its switches. */
const props = defineProps<{ strip: Strip }>();
const session = useSession();
const effective = computed(() => effectiveLevel(session.now!, props.strip));
const label = (what: string) => `${what} ${props.strip.name || props.strip.id}`;
const edit = (patch: StripPatch) => [{ type: 'strip.set', id: props.strip.id, patch } as const];
const set = (what: string, patch: StripPatch) => session.commit(label(what), edit(patch));
const readPercent = (text: string) => (Number.isNaN(parseFloat(text)) ? undefined : parseFloat(text));
const dryPath = () =>
  session.commit(label('dry path of'), [
    { type: 'strip.out', id: props.strip.id, out: { ...props.strip.out, on: !props.strip.out.on } },
  ]);
</script>

<template>
  <section class="border-t pt-1 mt-2" aria-label="Settings">
    <ParameterSlider
      label="Trim"
      :value="strip.trimDb ?? -80"
      :min="-80"
      :max="48"
      :default="CELL_DEFAULT"
      :step="0.1"
      :text="levelText(strip.trimDb)"
      :spoken="levelSpoken(strip.trimDb)"
      :read="readLevel"
      gesture="inspector"
      :what="label('trim')"
      :make="(v) => edit({ trimDb: v })"
    />
    <ParameterSlider
      label="Level"
      :value="strip.faderDb ?? FADER_FLOOR"
      :min="FADER_FLOOR"
      :max="FADER_TOP"
      :default="CELL_DEFAULT"
      :step="0.1"
      :text="levelText(strip.faderDb)"
      :spoken="`${levelSpoken(strip.faderDb)}, effective ${levelSpoken(effective)}`"
      :read="readLevel"
      :control="{ part: 'strip', owner: strip.id, id: null, control: 'fader' }"
      gesture="inspector"
      :what="label('level')"
      :make="(v) => edit({ faderDb: v })"
    />
    <ParameterSlider
      :label="strip.channels === 1 ? 'Pan' : 'Balance'"
      :value="strip.pan"
      :min="-1"
      :max="1"
      :default="CELL_DEFAULT"
      :step="0.01"
      :text="panText(strip.pan)"
      :read="readPan"
      :control="{ part: 'strip', owner: strip.id, id: null, control: 'pan' }"
      gesture="inspector"
      :what="label('pan')"
      :make="(v) => edit({ pan: v ?? 0 })"
    />
    <ParameterSlider
      v-if="strip.channels === 2"
      label="Width"
      :value="strip.width * 100"
      :min="0"
      :max="200"
      :default="100"
      :step="1"
      :text="`${Math.round(strip.width * 100)} %`"
      :read="readPercent"
      gesture="inspector"
      :what="label('width')"
      :make="(v) => edit({ width: (v ?? 100) / 100 })"
    />
    <div class="row wrap ga-1 mt-1">
      <v-btn
        variant="outlined"
        :aria-pressed="strip.invert"
        @click="set('polarity of', { invert: !strip.invert })"
        >ø Polarity</v-btn
      >
      <v-btn
        v-if="strip.channels === 2"
        variant="outlined"
        :aria-pressed="strip.swap"
        @click="set('swap', { swap: !strip.swap })"
        >⇄ Swap</v-btn
      >
      <v-btn
        variant="outlined"
        :aria-pressed="strip.soloSafe"
        @click="set('solo-safe', { soloSafe: !strip.soloSafe })"
        >Solo-safe</v-btn
      >
      <v-btn v-if="strip.kind !== 'output'" variant="outlined" :aria-pressed="strip.out.on" @click="dryPath"
        >Dry path</v-btn
      >
    </div>
  </section>
</template>

<style scoped>
.wrap .v-btn {
  font-size: 12px;
}
</style>
