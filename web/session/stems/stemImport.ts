import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { keepable } from '@core/base/text';
import { readWavHeader } from '@core/formats/wav';
import { addSources, type ImportedStem } from '@core/operations/strips';
import type { Channels } from '@core/session/types';
import { useNotices } from '@/ui/notices';
import { useSession, type StemInfo } from '../session';
import { ask, upload } from '../sync/api';
import { say } from '../texts';

export interface ImportJob {
  readonly name: string;
  readonly state: 'waiting' | 'sending' | 'done' | 'refused';
  readonly share: number;
  readonly reason: string;
}

/** Files that are sent at once. */
const AT_ONCE = 2;

/** Bytes of a file that are looked at for its header. */
const MOST_HEAD = 5 << 20;

/** Refuses a file by its header, before any of it is sent. @throws Refusal `audio` */
async function judge(file: File): Promise<void> {
  for (let bytes = 1 << 16; ; bytes *= 8) {
    const head = new Uint8Array(await file.slice(0, bytes).arrayBuffer());
    try {
      if (readWavHeader(head) || head.length >= Math.min(file.size, MOST_HEAD)) return;
    } catch (error) {
      throw new Error(`\`${file.name}\`: ${(error as Error).message}.`, { cause: error });
    }
  }
}

/** Audio files on their way into the session: each is sent, those that are good become strips in one step. */
export const useStemImport = defineStore('stemImport', () => {
  const session = useSession();
  const notices = useNotices();
  const jobs = ref<ImportJob[]>([]);
  const busy = ref(false);
  let stopper: AbortController | null = null;

  const done = computed(() => jobs.value.filter((j) => j.state === 'done').length);
  const refused = computed(() => jobs.value.filter((j) => j.state === 'refused'));
  const share = computed(() =>
    jobs.value.length
      ? jobs.value.reduce(
          (sum, j) => sum + (j.state === 'sending' ? j.share : j.state === 'waiting' ? 0 : 1),
          0,
        ) / jobs.value.length
      : 0,
  );

  function set(i: number, change: Partial<ImportJob>) {
    jobs.value = jobs.value.map((j, k) => (k === i ? { ...j, ...change } : j));
  }

  async function bring(files: readonly File[]): Promise<void> {
    if (!session.document || files.length === 0) return;
    if (busy.value) return notices.refused(say('filesStillComingWaitThem'));
    const rate = session.document.sampleRate;
    jobs.value = files.map((f) => ({ name: f.name, state: 'waiting', share: 0, reason: '' }));
    busy.value = true;
    stopper = new AbortController();
    const stems: (ImportedStem | null)[] = files.map(() => null);
    let next = 0;
    const worker = async () => {
      while (next < files.length && !stopper!.signal.aborted) {
        const i = next++;
        const file = files[i]!;
        set(i, { state: 'sending' });
        try {
          await judge(file);
          const facts = await upload<{ stem: string; channels: Channels; frames: number }>(
            `/stems?name=${encodeURIComponent(keepable(file.name, 300))}&rate=${rate}`,
            file,
            (s) => set(i, { share: s }),
            stopper!.signal,
          );
          stems[i] = { fileName: file.name, stem: facts.stem, channels: facts.channels };
          session.addStem(facts.stem, await ask<StemInfo>('GET', `/stems/${facts.stem}`));
          set(i, { state: 'done', share: 1 });
        } catch (error) {
          set(i, { state: 'refused', reason: (error as Error).message });
        }
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
    const good = stems.filter((s): s is ImportedStem => s !== null);
    if (good.length && session.document) {
      session.change(
        good.length === 1
          ? say('bringInFilename', { fileName: good[0]!.fileName })
          : say('bringInGoodStems', { good: good.length }),
        (d) => addSources(d, good),
      );
    }
    busy.value = false;
    if (refused.value.length === 0) {
      notices.done(say('goodStemHasCome', { good: good.length }, good.length));
      jobs.value = [];
    }
  }
  /** Counts up when files are to be chosen. */
  const choosing = ref(0);
  const choose = () => choosing.value++;
  const stop = () => stopper?.abort();
  const clear = () => (jobs.value = []);

  return { choosing, choose, jobs, busy, done, refused, share, bring, stop, clear };
});
