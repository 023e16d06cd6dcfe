import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { keepable } from '@core/base/text';
import { addSources, type ImportedStem } from '@core/operations/strips';
import type { Channels } from '@core/session/types';
import { useNotices } from '@/ui/notices';
import { useSession, type StemInfo } from '../session';
import { ask, upload, type ServerError } from '../sync/api';
import { filesWithin, type FoundFile } from './filesWithin';
import type { NamedStem } from './nameStems';
import { secondsLeft } from './progress';
import { say } from '../texts';

export interface ImportJob {
  readonly name: string;
  readonly size: number;
  readonly state: 'waiting' | 'reading' | 'sending' | 'done' | 'refused';
  /** Of the file, how much of what is to be done with it is done. */
  readonly share: number;
  readonly reason: string;
  /** Whether it is refused because it ends too early, and could come in as far as it goes. */
  readonly cut: boolean;
  /** Whether it was there already, and was not sent. */
  readonly known: boolean;
}

/** Files that are sent at once. */
const AT_ONCE = 2;
/** Of a file's work, what looking through it is, and what sending it is; the rest is what the server does with it. */
const READING = 0.15;
const SENDING = 0.55;

/** A file that is read in a worker is refused with the rule that it breaks. */
class Refused extends Error {
  constructor(
    message: string,
    readonly code: string | null,
  ) {
    super(message);
  }
}

/** Names a file's stems before any of it is sent, and refuses what is no audio. @throws Refused */
function named(
  file: File,
  rate: number,
  cut: boolean,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<readonly NamedStem[] | null> {
  const worker = new Worker(new URL('./nameStems.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<readonly NamedStem[] | null>((done, fail) => {
    signal.addEventListener('abort', () => fail(new Refused(say('stopped'), 'stopped')));
    worker.onerror = (e) => fail(new Refused(e.message, null));
    worker.onmessage = ({ data }) => {
      if (data.type === 'read') progress(data.bytes / file.size);
      else if (data.type === 'done') done(data.named);
      else fail(new Refused(`\`${file.name}\`: ${data.reason}.`, data.rule));
    };
    worker.postMessage({ file, rate, cut });
  }).finally(() => worker.terminate());
}

type Come = Omit<ImportedStem, 'fileName'>;
type Info = Record<string, StemInfo>;

/** Audio files on their way into the session: what is there already is not sent, and those that are good become strips in one step. */
export const useStemImport = defineStore('stemImport', () => {
  const session = useSession();
  const notices = useNotices();
  const jobs = ref<ImportJob[]>([]);
  const busy = ref(false);
  const began = ref(0);
  const clock = ref(0);
  let found: readonly FoundFile[] = [];
  let stopper: AbortController | null = null;

  const done = computed(() => jobs.value.filter((j) => j.state === 'done').length);
  const known = computed(() => jobs.value.filter((j) => j.known).length);
  const refused = computed(() => jobs.value.filter((j) => j.state === 'refused'));
  const share = computed(() => {
    const all = jobs.value.reduce((sum, j) => sum + j.size, 0);
    const over = (j: ImportJob) => j.state === 'done' || j.state === 'refused';
    return all ? jobs.value.reduce((sum, j) => sum + j.size * (over(j) ? 1 : j.share), 0) / all : 0;
  });
  /** Seconds until all are in. */
  const left = computed(() =>
    busy.value ? secondsLeft(share.value, (clock.value - began.value) / 1000) : null,
  );

  function set(i: number, change: Partial<ImportJob>) {
    jobs.value = jobs.value.map((j, k) => (k === i ? { ...j, ...change } : j));
  }

  /** Brings one file in. @returns its stems */
  async function bringOne(i: number, rate: number, cut: boolean): Promise<readonly Come[]> {
    const { signal } = stopper!;
    set(i, { state: 'reading', share: 0, reason: '', cut: false });
    const file = await found[i]!.file();
    const names = await named(file, rate, cut, (s) => set(i, { share: s * READING }), signal);
    if (names) {
      const { stems } = await ask<{ stems: Info }>('POST', '/stems/known', {
        stems: names.map((n) => n.stem),
      });
      if (names.every((n) => stems[n.stem])) {
        for (const { stem } of names) session.addStem(stem, stems[stem]!);
        set(i, { known: true });
        return names;
      }
    }
    set(i, { state: 'sending', share: READING });
    const { stems } = await upload<{ stems: (Come & { channels: Channels })[] }>(
      `/stems?name=${encodeURIComponent(keepable(file.name, 300))}&rate=${rate}${cut ? '&cut=true' : ''}`,
      file,
      (s) => set(i, { share: READING + s * SENDING }),
      signal,
    );
    for (const { stem } of stems) session.addStem(stem, await ask<StemInfo>('GET', `/stems/${stem}`));
    return stems;
  }

  /** Brings files in, by their numbers; those that are good become strips in one step. */
  async function run(which: readonly number[], cut: boolean): Promise<void> {
    const rate = session.document!.sampleRate;
    busy.value = true;
    stopper = new AbortController();
    began.value = clock.value = Date.now();
    const ticking = setInterval(() => (clock.value = Date.now()), 500);
    const come = new Map<number, readonly Come[]>();
    let next = 0;
    const worker = async () => {
      while (next < which.length && !stopper!.signal.aborted) {
        const i = which[next++]!;
        try {
          come.set(i, await bringOne(i, rate, cut));
          set(i, { state: 'done', share: 1 });
        } catch (error) {
          const { message, code } = error as ServerError;
          set(i, { state: 'refused', reason: message, cut: code === 'cut' });
        }
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
    clearInterval(ticking);
    // In the order in which they were given, whichever was in first.
    const good = which.flatMap((i) =>
      (come.get(i) ?? []).map((stem) => ({ ...stem, fileName: found[i]!.name })),
    );
    if (good.length && session.document) {
      session.change(
        good.length === 1
          ? say('bringInFilename', { fileName: good[0]!.fileName })
          : say('bringInGoodStems', { good: good.length }),
        (d) => addSources(d, good),
      );
    }
    busy.value = false;
    if (refused.value.length === 0 && jobs.value.every((j) => j.state === 'done')) {
      notices.done(
        known.value
          ? say('goodStemsSomeKnown', { good: good.length, known: known.value }, good.length)
          : say('goodStemHasCome', { good: good.length }, good.length),
      );
      jobs.value = [];
    }
  }

  async function bring(files: readonly File[]): Promise<void> {
    if (!session.document || files.length === 0) return;
    if (busy.value) return notices.refused(say('filesStillComingWaitThem'));
    busy.value = true;
    try {
      found = await filesWithin(files);
    } finally {
      busy.value = false;
    }
    if (found.length === 0) return notices.refused(say('noAudioInside'));
    jobs.value = found.map(({ name, size }) => ({
      ...{ name, size, state: 'waiting', share: 0, reason: '', cut: false, known: false },
    }));
    await run(
      found.map((_, i) => i),
      false,
    );
  }
  /** Brings in what is there of a file that is cut off. */
  async function bringCut(i: number): Promise<void> {
    if (!session.document || busy.value) return;
    await run([i], true);
  }
  /** Counts up when files are to be chosen. */
  const choosing = ref(0);
  const choose = () => choosing.value++;
  /** Counts up when a folder is to be chosen. */
  const choosingFolder = ref(0);
  const chooseFolder = () => choosingFolder.value++;
  const stop = () => stopper?.abort();
  const clear = () => (jobs.value = []);

  return {
    ...{ choosing, choose, choosingFolder, chooseFolder, jobs, busy, done, known, refused, share, left },
    ...{ bring, bringCut, stop, clear },
  };
});
