import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { processorOf } from '@core/processors/registry';
import { apply } from '@core/edits/apply';
import type { InsertRef } from '@core/operations/inserts';
import { moveToReturn } from '@core/operations/moveToReturn';
import type { Session } from '@core/session/types';
import type { LoadReading } from '@engine/load';
import type { LoadAnswer } from '@/audio/load.worker';
import LoadWorker from '@/audio/load.worker?worker';
import { runWorker } from '@/audio/runWorker';
import { useNotices } from '@/ui/notices';
import { useMarks } from '@/session/marks';
import { useSession } from '@/session/session';

/** What one return instead of several inserts would save, measured. */
export interface Saving {
  readonly type: string;
  readonly refs: readonly InsertRef[];
  readonly before: number;
  readonly after: number;
  readonly differences: readonly string[];
}

/** What processors cost in this browser on this machine, measured in a worker. */
export const useLoad = defineStore('load', () => {
  const session = useSession();
  const notices = useNotices();
  const reading = shallowRef<LoadReading | null>(null);
  /** The document that was measured: an edit of inserts makes the reading old. */
  const measured = shallowRef<Session | null>(null);
  const saving = shallowRef<Saving | null>(null);
  const busy = ref(false);
  useMarks().mark(
    'costs',
    () => new Map(reading.value?.inserts.map((i) => [`${i.strip} ${i.insert}`, i.share])),
  );
  const stale = computed(() => measured.value !== null && measured.value.strips !== session.document?.strips);
  watch(
    () => session.id,
    () => {
      reading.value = measured.value = saving.value = null;
    },
  );

  async function ask(sessions: readonly Session[]): Promise<readonly LoadReading[] | null> {
    busy.value = true;
    try {
      return (await runWorker<LoadAnswer>(() => new LoadWorker(), { sessions })).readings;
    } catch (error) {
      notices.refused(error);
      return null;
    } finally {
      busy.value = false;
    }
  }

  async function measure() {
    const doc = session.document;
    if (!doc) return;
    const found = await ask([doc]);
    if (!found) return;
    reading.value = found[0]!;
    measured.value = doc;
    saving.value = null;
  }

  /** Effects of one kind that stand on several strips, so that one return could take their place. */
  const shareable = computed(() => {
    const doc = session.document;
    if (!doc) return [];
    const kinds = new Map<string, InsertRef[]>();
    for (const s of doc.strips) {
      if (s.kind === 'output' || s.kind === 'return') continue;
      for (const i of s.inserts) {
        if (!i.on || i.mix === 0 || !processorOf(i.type).ambient) continue;
        kinds.set(i.type, [...(kinds.get(i.type) ?? []), { strip: s.id, id: i.id }]);
      }
    }
    return [...kinds].filter(([, refs]) => refs.length > 1).map(([type, refs]) => ({ type, refs }));
  });

  /** Measures what would be saved if these effects were one return. */
  async function ifOneReturn(type: string, refs: readonly InsertRef[]) {
    const doc = session.document;
    if (!doc) return;
    try {
      const { commands, differences } = moveToReturn(doc, refs);
      const found = await ask([doc, apply(doc, commands).session]);
      if (!found) return;
      reading.value = found[0]!;
      measured.value = doc;
      saving.value = { type, refs, before: found[0]!.share, after: found[1]!.share, differences };
    } catch (error) {
      notices.refused(error);
    }
  }

  return { reading, stale, busy, saving, shareable, measure, ifOneReturn };
});
