/// <reference lib="webworker" />
import { PrintMeter, type PrintReading } from '@core/metering/printMeter';
import type { Session } from '@core/session/types';
import { print } from '@engine/print';
import type { Stems } from '@core/findings/finding';
import { SlicedStems } from '@engine/slicedStems';
import { fetchSlices } from './stemFetch';
import { MeasuredStems } from './measuredStems';
import type { StemFacts } from './player';

export interface PrintJob {
  readonly session: Session;
  readonly strips: readonly string[];
  readonly frames: number;
  readonly stems: Readonly<Record<string, StemFacts>>;
  readonly module: WebAssembly.Module;
  /** Samples, or only the highest peak of each so many frames. */
  /** Seconds that it goes on for at most, until it is silent. */
  readonly tail?: number;
  readonly give: 'audio' | { readonly peaksOf: number };
}
export type PrintMessage =
  | {
      readonly type: 'audio';
      readonly strip: string;
      readonly channels: number;
      readonly audio: Float32Array<ArrayBuffer>;
    }
  | { readonly type: 'peaks'; readonly peaks: Float32Array<ArrayBuffer> }
  | { readonly type: 'strips'; readonly peaks: ReadonlyMap<string, number>; readonly stems: Stems }
  | { readonly type: 'reading'; readonly strip: string; readonly reading: PrintReading }
  | { readonly type: 'length'; readonly frames: number }
  | { readonly type: 'progress'; readonly share: number }
  | { readonly type: 'done' }
  | { readonly type: 'failed'; readonly reason: string };

async function run(job: PrintJob) {
  const post = (message: PrintMessage, move: Transferable[] = []) => self.postMessage(message, move);
  let made = 0;
  let peaks: number[] = [];
  let peak = 0;
  let inPeak = 0;
  const fetched = new SlicedStems(job.stems, fetchSlices);
  const factsOf = (s: { readonly stem: string | null }) => job.stems[s.stem ?? ''];
  const measured = new MeasuredStems(
    fetched,
    job.session,
    (s) => factsOf(s)?.frames ?? 0,
    (s) => factsOf(s)?.begins ?? null,
  );
  const audio = job.give === 'audio';
  const meters = new Map<string, PrintMeter>();
  const peaksOfStrips = (peaks: ReadonlyMap<string, number>) =>
    post({ type: 'strips', peaks, stems: measured.stems });
  for await (const pieces of print({
    ...job,
    stems: audio ? fetched : measured,
    ...(audio ? {} : { peaks: peaksOfStrips }),
    ended: (frames) => post({ type: 'length', frames }),
  })) {
    made += pieces[0] ? pieces[0].audio.length / pieces[0].capture.channels : 0;
    if (job.give === 'audio') {
      for (const { capture, audio } of pieces) {
        const own = audio.slice();
        let meter = meters.get(capture.strip);
        if (!meter)
          meters.set(capture.strip, (meter = new PrintMeter(job.session.sampleRate, capture.channels)));
        meter.push(own);
        post({ type: 'audio', strip: capture.strip, channels: capture.channels, audio: own }, [own.buffer]);
      }
    } else if (pieces[0]) {
      const { audio, capture } = pieces[0];
      for (const v of audio) {
        peak = Math.max(peak, Math.abs(v));
        if (++inPeak === job.give.peaksOf * capture.channels) {
          peaks.push(peak);
          peak = inPeak = 0;
        }
      }
      post({ type: 'peaks', peaks: new Float32Array(peaks) });
      peaks = [];
    }
    post({ type: 'progress', share: Math.min(1, made / job.frames) });
  }
  for (const [strip, meter] of meters) post({ type: 'reading', strip, reading: meter.end() });
  post({ type: 'done' });
}

self.onmessage = ({ data }: MessageEvent<PrintJob>) => {
  run(data).catch((error: Error) =>
    self.postMessage({ type: 'failed', reason: error.message } satisfies PrintMessage),
  );
};
