<script setup lang="ts">
import { computed } from 'vue';
import { effectiveLevel } from '@core/groups/vca';
import { levelSpoken, levelText, readLevel } from '@core/levels/decibels';
import { FADER_FLOOR, FADER_TOP } from '@core/levels/faderLaw';
import { panText, readPan } from '@core/levels/pan';
import type { StripPatch } from '@core/edits/commands';
import { CELL_DEFAULT } from '@core/operations/cells';
import type { Strip } from '@core/session/types';
import ParameterSlider from '@/session/ParameterSlider.vue';
import { useSession } from '@/session/session';
import { say } from './texts';

/** Trim, level, pan and width of a strip, and its switches. */
const props = defineProps<{ strip: Strip }>();
const session = useSession();
const effective = computed(() => effectiveLevel(session.now!, props.strip));
const label = (what: string) => `${what} ${props.strip.name || props.strip.id}`;
const edit = (patch: StripPatch) => [{ type: 'strip.set', id: props.strip.id, patch } as const];
const set = (what: string, patch: StripPatch) => session.commit(label(what), edit(patch));
const readPercent = (text: string) => (Number.isNaN(parseFloat(text)) ? undefined : parseFloat(text));
const dryPath = () =>
  session.commit(label(say('dryPathOf')), [
    { type: 'strip.out', id: props.strip.id, out: { ...props.strip.out, on: !props.strip.out.on } },
  ]);
</script>

<template>
  <section class="border-t pt-1 mt-2" :aria-label="say('settings')">
    <ParameterSlider
      :label="say('trimTitle')"
      :value="strip.trimDb ?? -80"
      :min="-80"
      :max="48"
      :default="CELL_DEFAULT"
      :step="0.1"
      :text="levelText(strip.trimDb)"
      :spoken="levelSpoken(strip.trimDb)"
      :read="readLevel"
      drag="inspector"
      :what="label(say('trim'))"
      :make="(v) => edit({ trimDb: v })"
    />
    <ParameterSlider
      :label="say('levelTitle')"
      :value="strip.faderDb ?? FADER_FLOOR"
      :min="FADER_FLOOR"
      :max="FADER_TOP"
      :default="CELL_DEFAULT"
      :step="0.1"
      :text="levelText(strip.faderDb)"
      :spoken="
        say('levelEffectiveLevel2', { level: levelSpoken(strip.faderDb), level2: levelSpoken(effective) })
      "
      :read="readLevel"
      :control="{ part: 'strip', owner: strip.id, id: null, control: 'fader' }"
      drag="inspector"
      :what="label(say('level'))"
      :make="(v) => edit({ faderDb: v })"
    />
    <ParameterSlider
      :label="strip.channels === 1 ? say('panTitle') : say('balance')"
      :value="strip.pan"
      :min="-1"
      :max="1"
      :default="CELL_DEFAULT"
      :step="0.01"
      :text="panText(strip.pan)"
      :read="readPan"
      :control="{ part: 'strip', owner: strip.id, id: null, control: 'pan' }"
      drag="inspector"
      :what="label(say('pan'))"
      :make="(v) => edit({ pan: v ?? 0 })"
    />
    <ParameterSlider
      v-if="strip.channels === 2"
      :label="say('widthTitle')"
      :value="strip.width * 100"
      :min="0"
      :max="200"
      :default="100"
      :step="1"
      :text="`${Math.round(strip.width * 100)} %`"
      :read="readPercent"
      drag="inspector"
      :what="label(say('width'))"
      :make="(v) => edit({ width: (v ?? 100) / 100 })"
    />
    <div class="row wrap ga-1 mt-1">
      <v-btn
        variant="outlined"
        :aria-pressed="strip.invert"
        @click="set(say('polarityOf'), { invert: !strip.invert })"
        >{{ say('polarity2') }}</v-btn
      >
      <v-btn
        v-if="strip.channels === 2"
        variant="outlined"
        :aria-pressed="strip.swap"
        @click="set(say('swap2'), { swap: !strip.swap })"
        >{{ say('swap') }}</v-btn
      >
      <v-btn
        variant="outlined"
        :aria-pressed="strip.soloSafe"
        @click="set(say('soloSafe'), { soloSafe: !strip.soloSafe })"
        >{{ say('soloSafeTitle') }}</v-btn
      >
      <v-btn
        v-if="strip.kind !== 'output'"
        variant="outlined"
        :aria-pressed="strip.out.on"
        @click="dryPath"
        >{{ say('dryPath') }}</v-btn
      >
    </div>
  </section>
</template>

<style scoped>
.wrap .v-btn {
  font-size: 12px;
}
</style>
