import type { Session } from '@core/session/types';
import { measureLoad, type LoadReading } from '@engine/load';

export interface LoadJob {
  readonly module: WebAssembly.Module;
  readonly sessions: readonly Session[];
}
export type LoadAnswer =
  | { readonly type: 'done'; readonly readings: readonly LoadReading[] }
  | { readonly type: 'failed'; readonly reason: string };

self.onmessage = ({ data }: MessageEvent<LoadJob>) => {
  try {
    const readings = data.sessions.map((session) =>
      measureLoad({ session, module: data.module, clock: () => performance.now() }),
    );
    self.postMessage({ type: 'done', readings } satisfies LoadAnswer);
  } catch (error) {
    self.postMessage({ type: 'failed', reason: (error as Error).message } satisfies LoadAnswer);
  }
};
