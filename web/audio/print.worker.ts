/// <reference lib="webworker" />
import pLimit from 'p-limit';
import type { Session } from '../../core/session/types';
import { fitChannels, print, type StemReader } from '../../engine/print';
import { fetchPiece, PIECE_FRAMES } from './stemFetch';
import type { StemFacts } from './player';

export interface PrintJob {
  readonly session: Session;
  readonly strips: readonly string[];
  readonly frames: number;
  readonly stems: Readonly<Record<string, StemFacts>>;
  readonly module: WebAssembly.Module;
  /** Samples, or only the highest peak of each so many frames. */
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
  | { readonly type: 'progress'; readonly share: number }
  | { readonly type: 'done' }
  | { readonly type: 'failed'; readonly reason: string };

/** Reads stems over the network, holding two pieces of each at the most. */
class FetchedStems implements StemReader {
  private readonly held = new Map<string, Map<number, Promise<Float32Array[]>>>();
  /** A browser has six connections to a server; edits and playing need some of them. */
  private readonly fetches = pLimit(3);
  constructor(private readonly facts: Readonly<Record<string, StemFacts>>) {}

  private piece(stem: string, piece: number): Promise<Float32Array[]> {
    let pieces = this.held.get(stem);
    if (!pieces) this.held.set(stem, (pieces = new Map()));
    let audio = pieces.get(piece);
    if (!audio) {
      pieces.set(piece, (audio = this.fetches(() => fetchPiece(stem, piece, this.facts[stem]!.channels))));
      for (const old of pieces.keys()) if (old < piece - 1) pieces.delete(old);
    }
    return audio;
  }

  async read(
    strip: { readonly stem: string | null; readonly channels: 1 | 2 },
    start: number,
    frames: number,
  ): Promise<readonly Float32Array[]> {
    const out = Array.from({ length: strip.channels }, () => new Float32Array(frames));
    const facts = strip.stem === null ? undefined : this.facts[strip.stem];
    if (!facts) return out;
    for (let at = start; at < Math.min(start + frames, facts.frames);) {
      const index = Math.floor(at / PIECE_FRAMES);
      const audio = await this.piece(strip.stem!, index);
      const from = at - index * PIECE_FRAMES;
      const n = Math.min(PIECE_FRAMES - from, start + frames - at);
      fitChannels(
        audio.map((c) => c.subarray(from, from + n)),
        strip.channels,
      ).forEach((c, k) => out[k]!.set(c, at - start));
      at += n;
    }
    return out;
  }
}

async function run(job: PrintJob) {
  const post = (message: PrintMessage, move: Transferable[] = []) => self.postMessage(message, move);
  let made = 0;
  let peaks: number[] = [];
  let peak = 0;
  let inPeak = 0;
  for await (const pieces of print({ ...job, stems: new FetchedStems(job.stems) })) {
    made += pieces[0] ? pieces[0].audio.length / pieces[0].capture.channels : 0;
    if (job.give === 'audio') {
      for (const { capture, audio } of pieces)
        post({ type: 'audio', strip: capture.strip, channels: capture.channels, audio }, [audio.buffer]);
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
  post({ type: 'done' });
}

self.onmessage = ({ data }: MessageEvent<PrintJob>) => {
  run(data).catch((error: Error) =>
    self.postMessage({ type: 'failed', reason: error.message } satisfies PrintMessage),
  );
};
