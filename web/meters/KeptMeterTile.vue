<script setup lang="ts">
import { mdiClose } from '@mdi/js';
import { computed, useTemplateRef } from 'vue';
import { levelText } from '@core/levels/decibels';
import { meterScale } from '@core/metering/scales';
import { processorOf } from '@core/processors/registry';
import { HeldLevel } from '@/audio/heldLevel';
import { useLiveMeter } from '@/audio/useLiveMeter';
import { useTransport } from '@/audio/transport';
import { useSession } from '@/session/session';
import { useSettings, type KeptMeter } from '@/session/settings';
import { barColours, paintLevelBars, paintMarks } from '@/ui/levelBars';
import { useZoneCanvas } from '@/ui/zoneCanvas';
import { History, paintReduction } from './reduction';
import { say } from './texts';

/** One meter that stays in view: the level and loudness of a strip, or what a processor takes away. */
const props = defineProps<{ kept: KeptMeter }>();
defineEmits<{ open: []; drop: [] }>();
const session = useSession();
const settings = useSettings();
const transport = useTransport();
const WIDTH = 228;
const NUMBERS = 66;
const BARS = WIDTH - NUMBERS - 22;
const HEIGHT = 30;

const strip = computed(() => session.strip(props.kept.strip));
const insert = computed(() => strip.value?.inserts.find((i) => i.id === props.kept.insert));
const stripName = computed(() => strip.value?.name || props.kept.strip);
const name = computed(() =>
  insert.value
    ? say('processorOfStrip', { processor: processorOf(insert.value.type).name, strip: stripName.value })
    : stripName.value,
);
const read = useLiveMeter(() => (props.kept.insert === undefined ? props.kept.strip : null));
const scale = computed(() => meterScale(settings.meterScale));
const canvas = useTemplateRef<HTMLCanvasElement>('canvas');
const first = useTemplateRef<HTMLElement>('first');
const second = useTemplateRef<HTMLElement>('second');

const history = new History();
const reduction = () => {
  const { player } = transport;
  if (!player?.started || !insert.value?.on) return 0;
  return player.dynamics[player.dynamicsSlot(props.kept.strip, props.kept.insert!)]!;
};
/** Milliseconds between two numbers that are written. */
const PACE = 120;
let toldAt = 0;
const held = new HeldLevel();
function tell() {
  const now = performance.now();
  if (insert.value) {
    if (transport.player?.rolling) history.push(reduction(), now);
  } else held.push(read()?.levels ?? [], now);
  if (now - toldAt < PACE || !first.value || !second.value) return;
  toldAt = now;
  const down = (db: number) => levelText(-db).replace('+', '');
  first.value.textContent = insert.value ? `${down(reduction())} dB` : scale.value.read(held.level);
  second.value.textContent = insert.value
    ? say('mostOf', { most: down(history.most) })
    : say('shortTermOf', { loudness: levelText(read()?.shortTerm ?? null).replace('+', '') });
}
useZoneCanvas(canvas, {
  width: () => BARS,
  height: () => HEIGHT,
  zones: () => [{ from: 0, width: BARS, sources: true }],
  colours: barColours,
  before: tell,
  seen(note) {
    note(scale.value);
    note(insert.value?.on);
    if (insert.value) note(history.head);
    else for (const level of read()?.levels ?? []) note(level);
  },
  paint(g, zone, c) {
    const box = { x: 0, y: 0, width: zone.width, height: HEIGHT };
    if (insert.value) return paintReduction(g, box, history, reduction(), c);
    paintLevelBars(
      g,
      { ...box, height: 14 },
      read()?.levels ?? (strip.value?.channels === 2 ? [null, null] : [null]),
      scale.value,
      c,
    );
    paintMarks(g, { ...box, y: 16 }, scale.value, c);
  },
});
</script>

<template>
  <div
    class="within position-relative flex-0-0 border-e px-2 pb-1 cursor-pointer"
    :style="{ width: `${WIDTH}px` }"
    :aria-label="name"
    :title="say('clickPicksDeleteTakesOut', { name })"
    @click="$emit('open')"
  >
    <div class="d-flex align-center ga-1 small">
      <span class="flex-1-1-0 text-truncate" :class="{ soft: insert && !insert.on }">{{ name }}</span>
      <v-btn
        :icon="mdiClose"
        size="x-small"
        tabindex="-1"
        :aria-label="say('takeNameOutOfView', { name })"
        @click.stop="$emit('drop')"
      />
    </div>
    <div class="d-flex ga-1 mono tiny text-no-wrap">
      <canvas
        ref="canvas"
        class="d-block"
        :style="{ width: `${BARS}px`, height: `${HEIGHT}px` }"
        aria-hidden="true"
      />
      <div class="flex-1-1-0 text-right">
        <div ref="first">{{ say('notHeardYet') }}</div>
        <div ref="second" class="soft" />
      </div>
    </div>
  </div>
</template>
