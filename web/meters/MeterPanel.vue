<script setup lang="ts">
import { computed, shallowRef, useTemplateRef } from 'vue';
import { levelText } from '@core/levels/decibels';
import type { LiveReading } from '@core/metering/liveMeter';
import { METER_SCALES, meterScale } from '@core/metering/scales';
import { monitoredOutput } from '@core/session/lookup';
import { clockText } from '@core/session/time';
import { useLiveMeter } from '@/audio/useLiveMeter';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { useSettings } from '@/session/settings';
import { barColours, paintLevelBars, paintMarks } from '@/ui/levelBars';
import { useZoneCanvas } from '@/ui/zoneCanvas';
import { useKept } from './kept';
import { say } from './texts';

/** All that is measured of the picked strip while it plays, or of the monitored output. */
const session = useSession();
const pick = usePick();
const settings = useSettings();
const transport = useTransport();
const commands = useCommands();
const kept = useKept();
const WIDTH = 252;
const HEIGHT = 38;

const id = computed(
  () => pick.shown ?? (session.shown ? (monitoredOutput(session.shown)?.id ?? null) : null),
);
const strip = computed(() => (id.value ? session.strip(id.value) : undefined));
const read = useLiveMeter(() => id.value);
const scale = computed(() => meterScale(settings.meterScale));
const scales = METER_SCALES.map((s) => ({ title: say(`scale${s.id}`), value: s.id }));

/** Milliseconds between two numbers that are written. */
const PACE = 150;
const reading = shallowRef<LiveReading | null>(null);
let at = 0;
const bars = useTemplateRef<HTMLCanvasElement>('bars');
useZoneCanvas(bars, {
  width: () => WIDTH,
  height: () => HEIGHT,
  zones: () => [{ from: 0, width: WIDTH, sources: true }],
  colours: barColours,
  before() {
    if (performance.now() - at < PACE) return;
    at = performance.now();
    reading.value = read();
  },
  seen(note) {
    note(scale.value);
    note(id.value);
    for (const level of read()?.levels ?? []) note(level);
  },
  paint(g, zone, c) {
    const levels = read()?.levels ?? (strip.value?.channels === 2 ? [null, null] : [null]);
    paintLevelBars(g, { x: 0, y: 0, width: zone.width, height: 20 }, levels, scale.value, c);
    paintMarks(g, { x: 0, y: 22, width: zone.width }, scale.value, c);
  },
});

const shown = (v: number | null | undefined) => levelText(v ?? null).replace('+', '');
const figures = computed(() => {
  const r = reading.value;
  return [
    { name: say('shortTerm'), value: shown(r?.shortTerm), unit: 'LUFS', most: shown(r?.maxShortTerm) },
    { name: say('momentary'), value: shown(r?.momentary), unit: 'LUFS', most: shown(r?.maxMomentary) },
    { name: say('integrated'), value: shown(r?.integrated), unit: 'LUFS' },
    { name: say('range'), value: (r?.range ?? null) === null ? '—' : r!.range!.toFixed(1), unit: 'LU' },
    { name: say('truePeak'), value: shown(r?.truePeakDb), unit: 'dBTP' },
  ];
});
const correlation = computed(() => reading.value?.correlation ?? null);
const mono = computed(() => reading.value?.mono ?? null);
const signed = (v: number) => `${v < -0.005 ? '−' : v > 0.005 ? '+' : ''}${Math.abs(v).toFixed(2)}`;
/** What the two figures of left and right come to. */
const verdict = computed(() => {
  const lost = mono.value;
  if (lost === null) return '';
  if (lost < -12) return say('cancelsInMono');
  if (lost < -4) return say('losesMuchInMono');
  return say('holdsInMono');
});
</script>

<template>
  <section v-if="strip" :aria-label="say('metersOfName', { name: strip.name || strip.id })">
    <div class="row ga-1 mb-1">
      <b class="flex-1-1-0 text-truncate">{{ strip.name || strip.id }}</b>
      <v-btn
        variant="outlined"
        :aria-pressed="kept.has({ strip: strip.id })"
        :title="keyShown(commands.keysOf('keepMeters'))"
        @click="kept.toggle([{ strip: strip.id }])"
        >{{ say('keepInView') }}</v-btn
      >
    </div>
    <canvas
      ref="bars"
      class="d-block"
      :style="{ width: `${WIDTH}px`, height: `${HEIGHT}px` }"
      aria-hidden="true"
    />
    <div class="pair ga-2 align-center text my-1">
      <span class="soft">{{ say('scale') }}</span>
      <v-select v-model="settings.meterScale" :aria-label="say('scale')" :items="scales" />
    </div>
    <p v-if="!reading" class="soft text">{{ say('playAndItIsMeasured') }}</p>
    <v-table density="compact" class="text">
      <thead>
        <tr>
          <th class="px-0">{{ reading ? say('measuredFor', { time: clockText(reading.seconds) }) : '' }}</th>
          <th class="px-0 text-right">{{ say('now') }}</th>
          <th class="px-0 text-right">{{ say('highest') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in figures" :key="f.name">
          <td class="px-0">
            {{ f.name }} <span class="soft tiny">{{ f.unit }}</span>
          </td>
          <td class="mono px-0 text-right">{{ f.value }}</td>
          <td class="mono px-0 text-right soft">{{ f.most ?? '' }}</td>
        </tr>
      </tbody>
    </v-table>
    <template v-if="strip.channels === 2">
      <h2>{{ say('leftAgainstRight') }}</h2>
      <div class="pair ga-2 align-center text">
        <span class="soft">{{ say('correlation') }}</span>
        <div class="row ga-2">
          <v-progress-linear
            class="flex-1-1-0"
            :model-value="correlation === null ? 0 : (correlation + 1) * 50"
            :color="correlation !== null && correlation < 0 ? 'warning' : 'primary'"
            height="8"
            :aria-label="say('correlation')"
          />
          <span class="mono">{{ correlation === null ? '—' : signed(correlation) }}</span>
        </div>
        <span class="soft">{{ say('inMono') }}</span>
        <span
          ><span class="mono">{{ mono === null ? '—' : shown(mono === -Infinity ? null : mono) }}</span> dB
          <span class="soft">{{ verdict }}</span></span
        >
      </div>
    </template>
    <div class="row ga-1 mt-2">
      <v-btn
        variant="outlined"
        :title="keyShown(commands.keysOf('measureAnew'))"
        @click="commands.run('measureAnew')"
        >{{ say('measureAnew') }}</v-btn
      >
      <v-btn
        variant="outlined"
        :aria-pressed="transport.mono"
        :title="keyShown(commands.keysOf('mono'))"
        @click="commands.run('mono')"
        >{{ say('hearInMono') }}</v-btn
      >
    </div>
  </section>
</template>
