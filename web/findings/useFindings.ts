import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { dismiss, dismissAll } from '@core/findings/findings';
import { mendedTogether } from '@core/findings/kinds';
import type { Finding } from '@core/findings/finding';
import { useOverview } from '@/audio/overview';
import { useMarks } from '@/session/marks';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';
import type { FindingsAnswer, FindingsJob } from './findings.worker';
import FindingsWorker from './findings.worker?worker';
import { say } from './texts';

/** The left edge of what is found, by how grave it is. */
export const EDGES = {
  fault: '3px solid var(--alert)',
  risk: '3px solid var(--caution)',
  note: '3px solid var(--rule)',
} as const;
/** Time that a session has to rest before it is looked at anew. */
const REST_MS = 150;

/** What is wrong with the routing, recomputed in a worker as the session changes. */
export const useFindings = defineStore('findings', () => {
  const session = useSession();
  const notices = useNotices();
  const overview = useOverview();
  const all = shallowRef<readonly Finding[]>([]);
  /** Whether an answer for the session as it is now is still on its way. */
  const busy = ref(false);
  let worker: Worker | null = null;
  let asked = 0;

  const ask = useDebounceFn(() => {
    if (!session.document) return;
    if (!worker) {
      worker = new FindingsWorker();
      worker.onmessage = ({ data }: MessageEvent<FindingsAnswer>) => {
        if (data.id !== asked) return;
        all.value = data.found;
        busy.value = false;
      };
    }
    worker.postMessage({
      id: ++asked,
      session: session.document,
      peaks: overview.stale ? null : overview.peaks,
      // Stems stay what they are while levels move.
      stems: overview.measures,
    } satisfies FindingsJob);
  }, REST_MS);

  watch(
    () => [session.document, overview.peaks, overview.stale] as const,
    ([document]) => {
      if (!document) {
        all.value = [];
        asked++;
        return;
      }
      busy.value = true;
      void ask();
    },
    { immediate: true },
  );

  const dismissed = computed(() => new Set(session.document?.dismissed ?? []));
  const open = computed(() => all.value.filter((f) => !dismissed.value.has(f.key)));
  const closed = computed(() => all.value.filter((f) => dismissed.value.has(f.key)));

  const marks = useMarks();
  marks.mark('badges', () => {
    const worst = open.value[0];
    return new Map(worst ? [['findings', { count: open.value.length, tone: worst.severity }]] : []);
  });
  marks.mark('words', () => {
    const by = new Map<string, string[]>();
    for (const f of open.value)
      for (const id of f.where.slice(0, 1)) by.set(id, [...(by.get(id) ?? []), f.what]);
    return by;
  });

  const letStand = (f: Finding, stand = true) =>
    session.change(`${stand ? say('letStand') : say('lookAgainAt')}: ${f.what}`.slice(0, 180), (d) =>
      dismiss(d, f.key, stand),
    );
  const mend = (f: Finding) =>
    f.repair !== null && session.commit(f.repair.label.slice(0, 180), f.repair.commands);

  /** Mends what of many can be mended together, in one step; the rest is looked at anew. */
  function mendAll(list: readonly Finding[], title: string) {
    const count = mendedTogether(session.document!, list).mended.length;
    if (count === 0) return notices.refused(say('noneCanBeMended'));
    session.change(say('mendCount', { count, title }).slice(0, 180), (d) => mendedTogether(d, list).commands);
    const left = list.length - count;
    if (left) notices.done(say('mendedSome', { count, left }));
  }
  const letAllStand = (list: readonly Finding[], title: string) =>
    session.change(`${say('letStand')}: ${title}`.slice(0, 180), (d) => dismissAll(d, list));

  return { all, open, closed, busy, letStand, mend, mendAll, letAllStand };
});
