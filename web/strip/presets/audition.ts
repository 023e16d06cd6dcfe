import { useDebounceFn } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import type { Session } from '@core/session/types';
import { matching, outputDifference } from '@/audio/outputDifference';
import { useTransport } from '@/audio/transport';
import { useSession } from '@/session/session';

/** Time that a preset has to be chosen before its loudness is measured. */
const REST_MS = 200;

/**
 * A preset heard before it is applied, by the ear of this window alone, at the loudness of what is there now when wanted. Nothing
 * is edited, sent or written.
 * @param commands what the chosen preset would do to a session; null where none is chosen
 */
export function useAudition(commands: () => ((doc: Session) => readonly Command[]) | null) {
  const session = useSession();
  const transport = useTransport();
  const on = ref(false);
  const matched = ref(true);
  /** By how many decibels the preset is louder than what is there; null before it is measured. */
  const difference = ref<number | null>(null);
  let before: typeof session.listening = null;
  let stopper: AbortController | null = null;

  const gain = computed(() => (on.value && matched.value ? 1 / matching(difference.value) : 1));
  watch([gain, () => transport.player], ([g, player]) => player?.setMonitorGain(g), { flush: 'sync' });

  const measure = useDebounceFn(async (doc: Session, list: readonly Command[]) => {
    const mine = stopper;
    if (!mine || mine.signal.aborted) return;
    try {
      const found = await outputDifference(
        doc,
        apply(doc, list).session,
        session.stems,
        transport,
        mine.signal,
      );
      if (stopper === mine) difference.value = found;
    } catch {
      // Without a measure it is heard as loud as it is.
    }
  }, REST_MS);

  function show() {
    stopper?.abort();
    difference.value = null;
    const doc = session.document;
    const make = on.value ? commands() : null;
    session.listening = make ?? before;
    if (!make || !doc || !matched.value) return;
    stopper = new AbortController();
    void measure(doc, make(doc));
  }
  watch(on, (now) => {
    if (now) before = session.listening;
    show();
  });
  watch([commands, matched], () => on.value && show());
  function end() {
    if (!on.value) return;
    on.value = false;
    stopper?.abort();
    session.listening = before;
    transport.player?.setMonitorGain(1);
  }
  onBeforeUnmount(end);
  return { on, matched, difference, end };
}
