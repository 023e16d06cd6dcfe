/// <reference lib="webworker" />
import { MeterBench } from './meterBench';

export type MeterWorkerMessage =
  | {
      readonly type: 'begin';
      readonly taps: SharedArrayBuffer;
      readonly readings: SharedArrayBuffer;
      readonly sampleRate: number;
    }
  | { readonly type: 'scale'; readonly id: string }
  | { readonly type: 'restart'; readonly tap: number };

/** Milliseconds between two readings: a picture at most. */
const PACE = 16;
let bench: MeterBench | null = null;
onmessage = ({ data }: MessageEvent<MeterWorkerMessage>) => {
  if (data.type === 'begin') {
    bench = new MeterBench(data.taps, new Float64Array(data.readings), data.sampleRate);
    setInterval(() => bench!.run(), PACE);
  } else if (data.type === 'scale') bench?.setScale(data.id);
  else bench?.restart(data.tap);
};
