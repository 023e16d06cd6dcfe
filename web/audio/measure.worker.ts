/// <reference lib="webworker" />
import type { Session } from '@core/session/types';
import { measure, type Measurement } from '@engine/measure';
import { SlicedStems } from '@engine/slicedStems';
import { fetchSlices } from './stemFetch';
import type { StemFacts } from './player';

/** Two sessions that are measured over the same excerpt. */
export interface CompareJob {
  readonly before: Session;
  readonly after: Session;
  readonly start: number;
  readonly frames: number;
  readonly stems: Readonly<Record<string, StemFacts>>;
  readonly module: WebAssembly.Module;
}
export type CompareMessage =
  | { readonly type: 'progress'; readonly share: number }
  | { readonly type: 'done'; readonly before: Measurement; readonly after: Measurement }
  | { readonly type: 'failed'; readonly reason: string };

async function run({ before, after, ...rest }: CompareJob) {
  const post = (message: CompareMessage) => self.postMessage(message);
  const stems = new SlicedStems(rest.stems, fetchSlices);
  const one = (session: Session, from: number) =>
    measure({
      ...rest,
      session,
      stems,
      progress: (share) => post({ type: 'progress', share: from + share / 2 }),
    });
  const first = await one(before, 0);
  post({ type: 'done', before: first, after: await one(after, 0.5) });
}

self.onmessage = ({ data }: MessageEvent<CompareJob>) => {
  run(data).catch((error: Error) =>
    self.postMessage({ type: 'failed', reason: error.message } satisfies CompareMessage),
  );
};
