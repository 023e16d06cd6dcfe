import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import type { Stems } from '@core/findings/finding';
import { monitoredOutput } from '@core/session/lookup';
import { stripOverview } from './printing';
import { useSession } from '@/session/session';
import { useTransport } from './transport';

export const OVERVIEW_PEAKS_PER_SECOND = 50;
/** How long the session has to be left alone before it is printed anew. */
const REST_MS = 1200;

/**
 * The monitored output over time, and the highest peak of every strip: printed in the background when the session has
 * been left alone for a moment and nothing plays.
 */
export const useOverview = defineStore('overview', () => {
  const session = useSession();
  const transport = useTransport();
  const overview = shallowRef<readonly number[]>([]);
  /** Peaks of the session as it was printed last; null before the first print of a session. */
  const peaks = shallowRef<ReadonlyMap<string, number> | null>(null);
  /** What its stems hold. */
  const measures = shallowRef<Stems | null>(null);
  const stale = ref(true);
  let running: AbortController | null = null;
  let whole = false;

  const compute = useDebounceFn(async () => {
    const document = session.document;
    const main = document && monitoredOutput(document);
    running?.abort();
    if (!document || !main || transport.length === 0) return;
    stale.value = true;
    // While it plays, the machine is left to the engine.
    if (transport.rolling) return;
    const mine = (running = new AbortController());
    try {
      const measured = await stripOverview(
        document,
        session.stems,
        main.id,
        Math.round(transport.length * document.sampleRate),
        Math.round(document.sampleRate / OVERVIEW_PEAKS_PER_SECOND),
        (list) => {
          // The old picture stays until the new one is whole; a first one is shown as it grows.
          if (!whole || list.length >= transport.length * OVERVIEW_PEAKS_PER_SECOND - 1)
            overview.value = [...list];
        },
        mine.signal,
      );
      peaks.value = measured.peaks;
      measures.value = measured.stems;
      stale.value = false;
      whole = true;
    } catch {
      // It is a picture: the next edit tries again.
    }
  }, REST_MS);

  watch(
    () => session.id,
    () => {
      running?.abort();
      overview.value = [];
      peaks.value = null;
      measures.value = null;
      stale.value = true;
      whole = false;
    },
    { flush: 'sync' },
  );
  watch(
    () => [session.document, session.stems],
    () => void compute(),
    { immediate: true },
  );
  watch(
    () => transport.rolling,
    (rolling) => {
      if (rolling) {
        if (stale.value) running?.abort();
      } else if (stale.value) void compute();
    },
  );
  return { overview, peaks, measures, stale };
});
