import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Command } from '@core/edits/commands';
import { apply } from '@core/edits/apply';
import type { InsertRef } from '@core/operations/inserts';
import { stripMap } from '@core/session/lookup';
import type { Session } from '@core/session/types';
import { matching, outputDifference } from '@/audio/outputDifference';
import { useNotices } from '@/ui/notices';
import { useMarks } from '@/session/marks';
import { useSession } from '@/session/session';
import { useTransport } from '@/audio/transport';
import { say } from './texts';

/** What switches inserts off, those of them that are there: their switch follows no lane meanwhile. */
function without(session: Session, refs: readonly InsertRef[]): readonly Command[] {
  const strips = stripMap(session);
  return refs.flatMap((ref): Command[] => {
    const insert = strips.get(ref.strip)?.inserts.find((i) => i.id === ref.id);
    if (!insert) return [];
    const lanes = { ...insert.lanes };
    delete lanes.on;
    return [{ type: 'insert.set', strip: ref.strip, id: ref.id, patch: { on: false, lanes } }];
  });
}

/**
 * Dry against wet: some inserts switched off for the ear of this window alone. Nothing is edited, sent or written; the document
 * stays as it is. The dry sound is played at the loudness of the wet one, where both have been measured.
 */
export const useCompare = defineStore('compare', () => {
  const session = useSession();
  const transport = useTransport();
  const notices = useNotices();
  const refs = shallowRef<readonly InsertRef[]>([]);
  const name = ref('');
  const dry = ref(false);
  const matched = ref(true);
  /** By how many decibels the wet sound is louder than the dry one; null before it is measured. */
  const difference = ref<number | null>(null);
  const busy = ref(false);
  const on = computed(() => refs.value.length > 0);
  let stopper: AbortController | null = null;

  const gain = computed(() => (dry.value && matched.value ? matching(difference.value) : 1));
  watch([gain, () => transport.player], ([g, player]) => player?.setMonitorGain(g), { flush: 'sync' });

  useMarks().mark('dry', () => new Set(dry.value ? refs.value.map((r) => `${r.strip} ${r.id}`) : []));
  function show() {
    session.listening = dry.value && refs.value.length ? (doc) => without(doc, refs.value) : null;
  }

  async function measure() {
    const doc = session.document;
    if (!doc || !refs.value.length) return;
    stopper?.abort();
    const mine = (stopper = new AbortController());
    busy.value = true;
    difference.value = null;
    try {
      difference.value = await outputDifference(
        apply(doc, without(doc, refs.value)).session,
        doc,
        session.stems,
        transport,
        mine.signal,
      );
      if (difference.value === null) notices.refused(say('hereOutputSilentGoWhere'));
    } catch (error) {
      if ((error as Error).name !== 'AbortError') notices.refused(error);
    } finally {
      if (stopper === mine) busy.value = false;
    }
  }

  /** Begins to compare some inserts on with the same off. */
  function begin(inserts: readonly InsertRef[], what: string) {
    if (!inserts.length) return notices.refused(say('thereNoInsertHereNothing'));
    refs.value = inserts;
    name.value = what;
    dry.value = true;
    show();
    void measure();
  }
  function toggle() {
    dry.value = !dry.value;
    show();
  }
  function end() {
    stopper?.abort();
    dry.value = false;
    show();
    refs.value = [];
    difference.value = null;
    busy.value = false;
  }
  watch(() => session.id, end);
  return { refs, name, dry, matched, difference, busy, on, begin, toggle, end, measure };
});
