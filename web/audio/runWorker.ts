import { loadEngine } from './engineModule';

type Message = { readonly type: string };
type Failed = { readonly type: 'failed'; readonly reason: string };

/**
 * Runs a job in a worker of its own, with the engine's code.
 * @param each what comes before its end
 * @returns its message `done`
 * @throws Error with the worker's reason; `AbortError` when `signal` has stopped it
 */
export async function runWorker<M extends Message>(
  make: () => Worker,
  job: object,
  each: (message: Exclude<M, { type: 'done' } | Failed>) => void = () => {},
  signal?: AbortSignal,
): Promise<Extract<M, { type: 'done' }>> {
  const module = await loadEngine();
  signal?.throwIfAborted();
  const worker = make();
  try {
    return await new Promise((resolve, reject) => {
      signal?.addEventListener('abort', () => reject(new DOMException('Stopped.', 'AbortError')));
      worker.onerror = (e) => reject(new Error(e.message));
      worker.onmessage = ({ data }: MessageEvent<M>) => {
        if (data.type === 'done') resolve(data as Extract<M, { type: 'done' }>);
        else if (data.type === 'failed') reject(new Error((data as unknown as Failed).reason));
        else each(data as Exclude<M, { type: 'done' } | Failed>);
      };
      worker.postMessage({ ...job, module });
    });
  } finally {
    worker.terminate();
  }
}
