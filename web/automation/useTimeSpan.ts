import { computed, ref, watch, type ComputedRef } from 'vue';
import type { Session } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { gridTimes, spanWithin, zoomed, type TimeSpan } from './timeSpan';

/** Pixels between two lines of the grid, at the least. */
const GRID_PIXELS = 28;

/** The part of the song that is looked at: zoomed, moved, and following the playhead. */
export function useTimeSpan(doc: ComputedRef<Session>) {
  const transport = useTransport();
  const width = ref(0);
  const whole = computed(() => Math.max(1, transport.length));
  /** What was asked for; null is the whole song. */
  const wanted = ref<TimeSpan | null>(null);
  const span = computed<TimeSpan>(() =>
    wanted.value
      ? spanWithin(wanted.value.start, wanted.value.length, whole.value)
      : { start: 0, length: whole.value },
  );
  const grid = computed(() =>
    gridTimes(span.value, doc.value.tempo, (GRID_PIXELS / Math.max(1, width.value)) * span.value.length),
  );
  const zoom = (factor: number, around = transport.position) =>
    (wanted.value = zoomed(
      span.value,
      factor,
      around < span.value.start || around > span.value.start + span.value.length
        ? span.value.start + span.value.length / 2
        : around,
      whole.value,
    ));
  function wheel(e: WheelEvent, share: number) {
    const around = span.value.start + share * span.value.length;
    if (e.ctrlKey || e.metaKey) zoom(e.deltaY < 0 ? 1.25 : 0.8, around);
    else {
      const along = e.deltaX !== 0 ? e.deltaX : e.shiftKey ? e.deltaY : 0;
      if (along === 0) return;
      wanted.value = spanWithin(
        span.value.start + (along / Math.max(1, width.value)) * span.value.length,
        span.value.length,
        whole.value,
      );
    }
    e.preventDefault();
  }
  // What is zoomed in follows the playhead, a page at a time.
  watch(
    () => transport.position,
    (at) => {
      if (
        transport.rolling &&
        wanted.value &&
        (at < span.value.start || at > span.value.start + span.value.length)
      )
        wanted.value = spanWithin(at - span.value.length * 0.05, span.value.length, whole.value);
    },
  );

  return { width, wanted, span, grid, zoom, wheel };
}
