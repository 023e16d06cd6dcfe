import type { Measurement } from '@engine/measure';
import type { CompareJob, CompareMessage } from './measure.worker';
import MeasureWorker from './measure.worker?worker';
import { runWorker } from './runWorker';

/**
 * Runs an excerpt of two sessions through the engine in a worker and reads every node of both.
 * @throws Error with the worker's reason; `AbortError` when it was stopped
 */
export async function compareExcerpts(
  job: Omit<CompareJob, 'module'>,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<{ readonly before: Measurement; readonly after: Measurement }> {
  const { before, after } = await runWorker<CompareMessage>(
    () => new MeasureWorker(),
    job,
    (m) => progress(m.share),
    signal,
  );
  return { before, after };
}
