/// <reference lib="webworker" />
import type { Arrangement } from '@core/surface/use/cost';
import { propose, type Proposal } from '@core/surface/use/proposal';
import type { Use } from '@core/surface/use/uses';

export interface UseQuestion {
  readonly serial: number;
  readonly uses: readonly Use[];
  readonly today: Arrangement;
}
export interface UseAnswer {
  readonly serial: number;
  readonly proposal: Proposal;
}
onmessage = ({ data: { serial, uses, today } }: MessageEvent<UseQuestion>) =>
  postMessage({ serial, proposal: propose(uses, today) } satisfies UseAnswer);
