<script setup lang="ts">
import { mdiPlay, mdiStop } from '@mdi/js';
import { useElementSize, useRafFn } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { decibelsOf } from '@core/levels/decibels';
import { travelOf } from '@core/levels/faderLaw';
import { monitoredOutput } from '@core/session/lookup';
import { barText, clockText } from '@core/session/time';
import { OVERVIEW_PEAKS_PER_SECOND, useOverview } from '@/audio/overview';
import { useSession } from '@/session/session';
import { useCommands } from '@/commands/commands';
import { keyShown } from '@/commands/keys';
import { useDrag } from '@/ui/drag';
import { Painted } from '@/ui/painted';
import { useSettings } from '@/session/settings';
import { useTransport } from '@/audio/transport';
import { say } from '../texts';

const session = useSession();
const transport = useTransport();
const settings = useSettings();
const commands = useCommands();
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
const peakText = ref('−∞');
const rmsText = ref('−∞');
let held = 0;
let heldAt = 0;
const painted = new Painted();
useRafFn(({ timestamp }) => {
  const el = meter.value;
  const player = transport.player;
  const main = session.document && monitoredOutput(session.document);
  if (!el || !main) return;
  const scale = devicePixelRatio;
  const w = Math.round(el.clientWidth * scale);
  const h = Math.round(el.clientHeight * scale);
  const meters = player?.started ? player.meters : null;
  const first = meters ? player!.slot(main.id) : 0;
  const note = painted.begin();
  for (const value of [el, w, h, scale, settings.theme, main.channels, meters]) note(value);
  for (let c = 0; meters && c < main.channels; c++) {
    note(meters[first + c * 4]);
    note(meters[first + c * 4 + 1]);
  }
  if (!painted.other && held === 0) return;
  if (el.width !== w || el.height !== h) {
    el.width = w;
    el.height = h;
  }
  const g = el.getContext('2d')!;
  g.clearRect(0, 0, w, h);
  const bar = Math.floor(h / 2) - scale;
  let highest = 0;
  let square = 0;
  for (let c = 0; c < main.channels; c++) {
    g.fillStyle = colour('--well');
    g.fillRect(0, c * (bar + 2 * scale), w, bar);
    if (!meters) continue;
    const base = first + c * 4;
    const peak = meters[base]!;
    highest = Math.max(highest, peak);
    square += meters[base + 1]! / main.channels;
    g.fillStyle = peak > 1 ? colour('--alert') : colour('--signal');
    g.fillRect(0, c * (bar + 2 * scale), travelOf(decibelsOf(peak)) * w, bar);
  }
  if (highest > held || timestamp - heldAt > 1000) {
    held = highest;
    heldAt = timestamp;
    peakText.value = text(decibelsOf(held));
    rmsText.value = text(decibelsOf(Math.sqrt(square)));
  }
});
const text = (db: number | null) => (db === null || db < -90 ? '−∞' : db.toFixed(1).replace('-', '−'));
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
    <div
      class="meter tiny cursor-pointer"
      :title="say('monitoredOutputPeakRmsClick')"
      @click="transport.player?.clearPeaks()"
    >
      <canvas ref="meter" class="d-block w-100" aria-hidden="true" />
      <span class="mono">{{ say('rmsRmsPeakDb', { rms: rmsText, peak: peakText }) }}</span>
    </div>
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
.meter {
  width: 132px;
}
.meter canvas {
  height: 18px;
}
.load {
  width: 70px;
  height: 34px;
}
</style>
