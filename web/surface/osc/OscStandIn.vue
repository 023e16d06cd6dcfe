<script setup lang="ts">
import { computed } from 'vue';
import { shortNames } from '@core/surface/shortNames';
import { say } from '../texts';
import { useStandIn } from './useStandIn';

/** A simulated OSC controller: faders that send real packets, and what it is told. */
const standIn = useStandIn();
const { desk, lines, plugged } = standIn;
const names = computed(() =>
  shortNames(
    desk.value.faders.map((f) => f.name),
    10,
  ),
);
const keys = [
  ['bankLeft', 'oscBankLeft'],
  ['bankRight', 'oscBankRight'],
  ['undo', 'undo'],
  ['redo', 'redo'],
] as const;
</script>

<template>
  <section class="d-flex flex-column ga-2" :aria-label="say('simulatedOsc')">
    <h2>{{ say('simulatedOsc') }}</h2>
    <template v-if="plugged">
      <p class="soft ma-0 tiny" aria-live="polite">
        {{
          desk.heard
            ? say('oscSteers', {
                name: desk.session,
                first: desk.first,
                last: Math.min(desk.total, desk.first + 7),
                total: desk.total,
              })
            : say('oscNoAnswer')
        }}
      </p>
      <div v-for="(f, i) in desk.faders" :key="i" class="d-flex ga-1 align-center" style="height: 28px">
        <span class="tiny text-no-wrap overflow-hidden" style="width: 66px" :title="f.name">{{
          names[i]
        }}</span>
        <v-slider
          class="flex-1-1-0 mx-1"
          :model-value="f.travel"
          :min="0"
          :max="1"
          :step="0.005"
          :disabled="!f.name"
          hide-details
          density="compact"
          color="primary"
          :aria-label="say('oscFader', { n: i + 1, name: f.name || say('oscEmpty') })"
          :aria-valuetext="f.text"
          @update:model-value="standIn.move(i, $event)"
        />
        <span class="tiny mono soft text-no-wrap text-end" style="width: 40px">{{ f.text }}</span>
        <v-btn
          size="x-small"
          min-width="0"
          class="px-2"
          :variant="f.mute ? 'flat' : 'outlined'"
          :color="f.mute ? 'primary' : undefined"
          :aria-pressed="f.mute"
          :disabled="!f.name"
          :aria-label="say('oscMute', { name: f.name || say('oscEmpty') })"
          @click="standIn.press('mute', i)"
          >M</v-btn
        >
      </div>
      <div class="d-flex flex-wrap ga-1">
        <v-btn
          v-for="[key, text] in keys"
          :key="key"
          size="x-small"
          variant="outlined"
          @click="standIn.press(key)"
          >{{ say(text) }}</v-btn
        >
        <v-btn size="x-small" variant="outlined" @click="standIn.press('play')">{{
          desk.rolling ? say('stop') : say('play')
        }}</v-btn>
        <v-btn size="x-small" variant="text" @click="standIn.unplug()">{{ say('oscUnplug') }}</v-btn>
      </div>
      <p v-if="desk.refused" class="ma-0 tiny" role="status">{{ desk.refused }}</p>
      <ol class="mono plain-list ma-0 pa-0 tiny" :aria-label="say('oscMessages')" tabindex="0">
        <li v-for="line in lines" :key="line.key" class="text-truncate" :class="{ soft: line.way === 'in' }">
          <b>{{ line.way === 'out' ? '→' : '←' }}</b> {{ line.text }}
        </li>
      </ol>
    </template>
    <v-btn v-else size="small" variant="outlined" class="align-self-start" @click="standIn.plug()">{{
      say('oscPlug')
    }}</v-btn>
  </section>
</template>
