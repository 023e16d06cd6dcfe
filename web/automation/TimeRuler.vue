<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import { barText } from '@core/session/time';
import { useTransport } from '@/audio/transport';
import { useSession } from '@/session/session';
import { gridTimes, type TimeSpan } from './timeSpan';
import { say } from './texts';

/** Bars, sections, loop and playhead over the lanes; a click goes there. */
const props = defineProps<{ span: TimeSpan }>();
/** Pixels that it is wide, for those who draw below it. */
const pixels = defineModel<number>('width', { required: true });
const session = useSession();
const transport = useTransport();
const doc = computed(() => session.shown!);
const ruler = ref<HTMLElement | null>(null);
const size = useElementSize(ruler);
watch(size.width, (w) => (pixels.value = w));
/** Pixels between two numbers, at the least. */
const MARK_PIXELS = 70;
const marks = computed(() =>
  gridTimes(props.span, doc.value.tempo, (MARK_PIXELS / Math.max(1, size.width.value)) * props.span.length),
);
const xOf = (t: number) => ((t - props.span.start) / props.span.length) * 100;
function locate(e: PointerEvent) {
  const box = ruler.value!.getBoundingClientRect();
  transport.locate(props.span.start + ((e.clientX - box.left) / box.width) * props.span.length);
}
</script>

<template>
  <div
    ref="ruler"
    class="position-relative my-0 mx-2 overflow-hidden cursor-pointer bg-sheet"
    :title="say('clickGoThere')"
    @pointerdown="locate"
  >
    <span
      v-for="s in doc.sections"
      :key="s.id"
      class="section position-absolute top-0 tiny ps-1 overflow-hidden text-no-wrap"
      :style="{ left: `${xOf(s.start)}%`, width: `${xOf(s.end) - xOf(s.start)}%` }"
      >{{ s.name }}</span
    >
    <span
      v-for="t in marks"
      :key="t"
      class="mark mono position-absolute bottom-0 ps-1 border-s soft"
      :style="{ left: `${xOf(t)}%` }"
      >{{ barText(t, doc.tempo).split(':')[0] }}</span
    >
    <i
      v-if="transport.loop"
      class="loop position-absolute"
      :class="transport.looping ? 'bg-signal' : 'bg-ink-soft'"
      :style="{
        left: `${xOf(transport.loop.start)}%`,
        width: `${xOf(transport.loop.end) - xOf(transport.loop.start)}%`,
      }"
    />
    <i
      class="head-line position-absolute top-0 bottom-0 bg-ink"
      :style="{ left: `${xOf(transport.position)}%` }"
    />
  </div>
</template>

<style scoped>
.section {
  height: 17px;
  line-height: 17px;
  border-left: 1px solid var(--signal);
  background: color-mix(in srgb, var(--signal) 10%, transparent);
}
.mark {
  font-size: 10px;
}
.loop {
  top: 17px;
  height: 4px;
}
.head-line {
  width: 1px;
}
</style>
