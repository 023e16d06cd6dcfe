<script setup lang="ts">
import { mdiPlay, mdiStop } from '@mdi/js';
import { useElementSize } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { levelText } from '@core/levels/decibels';
import { meterScale } from '@core/metering/scales';
import { monitoredOutput } from '@core/session/lookup';
import { barText, clockText } from '@core/session/time';
import { OVERVIEW_PEAKS_PER_SECOND, useOverview } from '@/audio/overview';
import { useSession } from '@/session/session';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import { useDrag } from '@/ui/drag';
import { barColours, paintLevelBars } from '@/ui/levelBars';
import { useZoneCanvas } from '@/ui/zoneCanvas';
import { useSettings } from '@/session/settings';
import { HeldLevel } from '@/audio/heldLevel';
import { useLiveMeter } from '@/audio/useLiveMeter';
import { usePick } from '@/session/pick';
import { useTransport } from '@/audio/transport';
import { say } from '../texts';

const session = useSession();
const transport = useTransport();
const settings = useSettings();
const commands = useCommands();
const pick = usePick();
const busy = computed(() => {
  const percent = (share: number) => `${Math.round(share * 100)} %`;
  return say('audioThreadBusyPercentTime', {
    percent: percent(transport.load),
    percent2: percent(transport.worst),
    gaps: transport.gaps ? say('gapsWereHeardTimes', { times: transport.gaps.times }) : '',
    overruns: transport.overruns,
    dropouts: transport.dropouts,
    longerBuffer: transport.longerBuffer ? say('clickLongerBufferCostsHow') : say('clickCostsHowMuch'),
  });
});
const ribbon = ref<HTMLElement | null>(null);
const wave = ref<HTMLCanvasElement | null>(null);
const meter = ref<HTMLCanvasElement | null>(null);
const { width, height } = useElementSize(ribbon);

const doc = computed(() => session.document!);
const share = (seconds: number) => (transport.length > 0 ? (seconds / transport.length) * 100 : 0);

const overviewStore = useOverview();
const overview = computed(() => overviewStore.overview);

function colour(name: string) {
  return getComputedStyle(ribbon.value!).getPropertyValue(name).trim();
}
watch(
  () => [overview.value, width.value, height.value, settings.theme],
  async () => {
    await nextTick();
    const el = wave.value;
    if (!el || !ribbon.value) return;
    const scale = devicePixelRatio;
    el.width = Math.max(1, Math.round(width.value * scale));
    el.height = Math.max(1, Math.round(height.value * scale));
    const g = el.getContext('2d')!;
    g.fillStyle = colour('--signal-deep');
    const total = transport.length * OVERVIEW_PEAKS_PER_SECOND;
    const step = 3 * scale;
    for (let x = 0; x < el.width; x += step) {
      const from = Math.floor((x / el.width) * total);
      const to = Math.max(from + 1, Math.floor(((x + step) / el.width) * total));
      let peak = 0;
      for (let i = from; i < Math.min(to, overview.value.length); i++)
        peak = Math.max(peak, overview.value[i]!);
      const h = Math.min(1, peak) * (el.height - 18 * scale);
      g.fillRect(x, el.height - 2 * scale - h, 2 * scale, Math.max(1, h));
    }
  },
  { flush: 'post' },
);

// — hands on the ribbon —
const at = (e: PointerEvent | MouseEvent) => {
  const box = ribbon.value!.getBoundingClientRect();
  return Math.max(0, Math.min(1, (e.clientX - box.left) / box.width)) * transport.length;
};
/** The span that a hand has drawn so far; null while it is no more than a click. */
const drawn = shallowRef<{ readonly start: number; readonly end: number } | null>(null);
const drag = useDrag({
  begin: at,
  move(e, { note }) {
    const [start, end] = [note, at(e)].sort((a, b) => a - b) as [number, number];
    drawn.value = share(end - start) > 1 ? { start, end } : null;
  },
  end({ note }) {
    if (drawn.value) transport.setLoop(drawn.value);
    else transport.locate(note);
    drawn.value = null;
  },
  cancel: () => (drawn.value = null),
});
function loopSection(e: MouseEvent) {
  const time = at(e);
  const s = doc.value.sections.find((x) => time >= x.start && time < x.end);
  if (s) transport.setLoop({ start: s.start, end: s.end });
}
function key(e: KeyboardEvent) {
  const to = {
    back: transport.position - 1,
    forth: transport.position + 1,
    start: 0,
    end: transport.length,
  }[commands.keyIn('ribbon', e) ?? ''];
  if (to === undefined) return;
  transport.locate(to);
  e.preventDefault();
  e.stopPropagation();
}
const loopShown = computed(() => drawn.value ?? transport.loop);

// — main meter —
const METER_WIDTH = 132;
const METER_HEIGHT = 18;
const main = computed(() => (session.document ? (monitoredOutput(session.document) ?? null) : null));
const reading = useLiveMeter(() => main.value?.id);
const scale = computed(() => meterScale(settings.meterScale));
const peakText = ref('−∞');
const loudnessText = ref('−∞');
/** Milliseconds between two texts. */
const PACE = 250;
let toldAt = 0;
const held = new HeldLevel();
function tellLoudness() {
  const now = performance.now();
  const r = reading();
  held.push(r?.levels ?? [], now);
  if (now - toldAt < PACE) return;
  toldAt = now;
  peakText.value = scale.value.read(held.level);
  loudnessText.value = levelText(r?.shortTerm ?? null).replace('+', '');
}
useZoneCanvas(meter, {
  width: () => METER_WIDTH,
  height: () => METER_HEIGHT,
  zones: () => [{ from: 0, width: METER_WIDTH, sources: true }],
  colours: barColours,
  before: tellLoudness,
  seen(note) {
    note(scale.value);
    note(main.value?.channels);
    for (const level of reading()?.levels ?? []) note(level);
  },
  paint(g, zone, c) {
    const levels = reading()?.levels ?? (main.value?.channels === 1 ? [null] : [null, null]);
    paintLevelBars(g, { x: 0, y: 0, width: zone.width, height: METER_HEIGHT }, levels, scale.value, c);
  },
});
function meters() {
  transport.player?.clearPeaks();
  pick.none();
  pick.focus = null;
  commands.run('meters');
}
</script>

<template>
  <footer
    class="transport flex-0-0 d-flex align-center ga-2 ps-2 pe-4 border-t"
    :aria-label="say('transport')"
  >
    <v-btn
      :icon="transport.rolling ? mdiStop : mdiPlay"
      class="play"
      :aria-label="transport.rolling ? say('stop') : say('play')"
      :title="`${transport.rolling ? say('stop') : say('play')} (${keyShown(commands.keysOf('play'))})`"
      @click="transport.toggle"
    />
    <v-btn
      :aria-pressed="transport.looping"
      :title="say('loopKeyshown', { keyShown: keyShown(commands.keysOf('loop')) })"
      @click="transport.toggleLoop"
      >{{ say('loop') }}</v-btn
    >
    <span class="time mono" data-testid="bars">{{ barText(transport.position, doc.tempo) }}</span>
    <span class="mono soft clock text" data-testid="clock">{{ clockText(transport.position) }}</span>
    <div
      ref="ribbon"
      class="ribbon position-relative flex-1-1-0 bg-sheet cursor-pointer overflow-hidden"
      role="slider"
      tabindex="0"
      :aria-label="say('position')"
      :aria-valuemin="0"
      :aria-valuemax="transport.length"
      :aria-valuenow="transport.position"
      :aria-valuetext="clockText(transport.position)"
      :title="say('clickGoThereDragLoop')"
      v-on="drag.on"
      @dblclick="loopSection"
      @keydown="key"
    >
      <canvas ref="wave" class="fills" aria-hidden="true" />
      <span
        v-for="s in doc.sections"
        :key="s.id"
        class="section position-absolute top-0 bottom-0 border-s px-2 small overflow-hidden text-no-wrap pointer-events-none"
        :style="{ left: `${share(s.start)}%`, width: `${share(s.end - s.start)}%` }"
        >{{ s.name }}</span
      >
      <i
        v-if="loopShown"
        class="span position-absolute top-0 bottom-0 border-s border-e"
        :class="{ on: transport.looping || drawn !== null }"
        :style="{ left: `${share(loopShown.start)}%`, width: `${share(loopShown.end - loopShown.start)}%` }"
      />
      <i class="head position-absolute top-0 bottom-0" :style="{ left: `${share(transport.position)}%` }" />
    </div>
    <v-btn
      v-if="transport.mono"
      class="caution px-1"
      aria-pressed="true"
      :title="say('heardMonoClickAsIs')"
      @click="commands.run('mono')"
      >{{ say('inMono') }}</v-btn
    >
    <v-btn class="long pa-0 tiny" :title="say('monitoredOutputLoudnessPeakClick')" @click="meters">
      <canvas
        ref="meter"
        class="d-block"
        :style="{ width: `${METER_WIDTH}px`, height: `${METER_HEIGHT}px` }"
        aria-hidden="true"
      />
      <span class="mono" data-testid="loudness">{{
        say('loudnessAndPeak', { loudness: loudnessText, peak: peakText })
      }}</span>
    </v-btn>
    <v-btn
      class="mono load pa-0 justify-start text-left small"
      :class="transport.late > 0 ? 'caution' : 'soft'"
      :title="busy"
      @click="commands.run('load')"
      >{{ say('loadRound', { round: Math.round(transport.load * 100) })
      }}<template v-if="transport.late"
        ><br />{{ say('lateLate', { late: transport.late }) }}</template
      ></v-btn
    >
  </footer>
</template>

<style scoped>
.transport {
  height: 56px;
}
.play :deep(.v-icon) {
  font-size: 26px;
}
.time {
  font-size: 20px;
  width: 92px;
}
.clock {
  width: 66px;
}
.ribbon {
  height: 44px;
  touch-action: none;
}
.span.on {
  background: color-mix(in srgb, var(--signal) 18%, transparent);
  border-color: var(--signal) !important;
}
.head {
  width: 2px;
  margin-left: -1px;
  background: var(--picked);
}
.load {
  width: 70px;
  height: 34px;
}
</style>
