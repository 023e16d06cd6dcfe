/// <reference lib="webworker" />
import { findings } from '@core/findings/findings';
import type { Finding, Stems } from '@core/findings/finding';
import type { Session } from '@core/session/types';

export interface FindingsJob {
  readonly id: number;
  readonly session: Session;
  readonly peaks: ReadonlyMap<string, number> | null;
  readonly stems: Stems | null;
}
export interface FindingsAnswer {
  readonly id: number;
  readonly found: readonly Finding[];
}

self.onmessage = ({ data }: MessageEvent<FindingsJob>) =>
  self.postMessage({
    id: data.id,
    found: findings(data.session, data.peaks, data.stems),
  } satisfies FindingsAnswer);
