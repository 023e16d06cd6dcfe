import type { Measurement } from '@engine/measure';
import type { CompareJob, CompareMessage } from './measure.worker';
import MeasureWorker from './measure.worker?worker';
import { loadEngine } from './player';

/**
 * Runs an excerpt of two sessions through the engine in a worker and reads every node of both.
 * @throws Error with the worker's reason; `AbortError` when it was stopped
 */
export async function compareExcerpts(
  job: Omit<CompareJob, 'module'>,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<{ readonly before: Measurement; readonly after: Measurement }> {
  const module = await loadEngine();
  signal.throwIfAborted();
  const worker = new MeasureWorker();
  try {
    return await new Promise((resolve, reject) => {
      signal.addEventListener('abort', () => reject(new DOMException('Stopped.', 'AbortError')));
      worker.onerror = (e) => reject(new Error(e.message));
      worker.onmessage = ({ data }: MessageEvent<CompareMessage>) => {
        if (data.type === 'progress') progress(data.share);
        else if (data.type === 'failed') reject(new Error(data.reason));
        else resolve({ before: data.before, after: data.after });
      };
      worker.postMessage({ ...job, module } satisfies CompareJob);
    });
  } finally {
    worker.terminate();
  }
}
