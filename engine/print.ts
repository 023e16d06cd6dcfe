import { compilePlan } from '../core/plan/compile';
import { BLOCK, METER_FLOATS } from '../core/plan/layout';
import type { Capture } from '../core/plan/plan';
import { stripMap } from '../core/session/lookup';
import type { Session, Strip } from '../core/session/types';
import type { Id, Samples } from '../core/session/units';
import { Engine } from './engine';

/** Where a print or a feeder gets its audio. */
export interface StemReader {
  /**
   * @returns `channels` arrays of `frames` floats at the session's rate, silence past the stem's end. A mono stem on a
   * stereo strip stands on both sides; a stereo stem on a mono strip is folded to (L+R)/2. They are good until the next
   * call for the same stem.
   */
  read(strip: Strip, start: Samples, frames: Samples): Promise<readonly Float32Array[]>;
}

export interface PrintPiece {
  readonly capture: Capture;
  /** Interleaved frames. */
  readonly audio: Float32Array<ArrayBuffer>;
}

export interface PrintRequest {
  readonly session: Session;
  readonly strips: readonly Id[];
  readonly frames: Samples;
  readonly stems: StemReader;
  readonly module: WebAssembly.Module;
  readonly signal?: AbortSignal;
  /** Told at the end: the highest sample of every strip after its fader, inserts and pan. */
  readonly peaks?: (peaks: ReadonlyMap<Id, number>) => void;
}

/** Frames that are read and handed on at once. */
const PIECE = BLOCK * 64;

/**
 * Runs the session from time 0 and gives what the strips deliver, piece by piece. Every capture begins at time 0: what
 * processors delay is cut off at its start. The same code prints in a worker and in Node.
 */
export async function* print(request: PrintRequest): AsyncGenerator<readonly PrintPiece[]> {
  const { session, frames, stems } = request;
  const plan = compilePlan(session, { capture: request.strips });
  const engine = new Engine(request.module);
  engine.load(plan);
  const strips = stripMap(session);
  const sources = plan.sources.map((s) => strips.get(s.strip)!);
  const lag = Math.max(0, ...plan.captures.map((c) => c.latency));
  for (let at = 0; at < frames + lag; at += PIECE) {
    request.signal?.throwIfAborted();
    const here = Math.min(PIECE, frames + lag - at);
    const audio = await Promise.all(sources.map((s) => stems.read(s, at, PIECE)));
    const pieces = plan.captures.map((capture) => {
      const first = Math.max(at, capture.latency);
      const last = Math.min(at + here, frames + capture.latency);
      return {
        capture,
        from: first - at,
        audio: new Float32Array(Math.max(0, last - first) * capture.channels),
      };
    });
    for (let b = 0; b < here; b += BLOCK) {
      feed(engine, audio, b);
      engine.run();
      for (let k = 0; k < pieces.length; k++) take(engine, k, pieces[k]!, b);
    }
    yield pieces;
  }
  request.peaks?.(
    new Map(
      plan.meters.map((m, i) => {
        const meter = engine.meter(i);
        let peak = 0;
        for (let c = 0; c < m.channels; c++) peak = Math.max(peak, meter[c * METER_FLOATS + 2]!);
        return [m.strip, peak];
      }),
    ),
  );
}

/** Hands the block that begins at frame `b` to the engine. */
function feed(engine: Engine, audio: readonly (readonly Float32Array[])[], b: Samples) {
  for (let s = 0; s < audio.length; s++)
    for (let c = 0; c < audio[s]!.length; c++) {
      const from = audio[s]![c]!;
      const to = engine.input(s, c);
      for (let i = 0; i < BLOCK; i++) to[i] = from[b + i]!;
    }
}

/** Puts what a capture gave for the block that begins at frame `b` into its piece, which begins at frame `from`. */
function take(
  engine: Engine,
  index: number,
  piece: { readonly capture: Capture; readonly from: Samples; readonly audio: Float32Array },
  b: Samples,
) {
  const { from, audio } = piece;
  const { channels } = piece.capture;
  const first = Math.max(0, from - b);
  const last = Math.min(BLOCK, audio.length / channels - b + from);
  for (let c = 0; c < channels; c++) {
    const block = engine.output(index, c);
    let n = (b + first - from) * channels + c;
    for (let i = first; i < last; i++, n += channels) audio[n] = block[i]!;
  }
}

/** Brings a stem's channels to those of its strip. @param planar the stem's own channels */
export function fitChannels(planar: readonly Float32Array[], channels: 1 | 2): readonly Float32Array[] {
  if (planar.length === channels) return planar;
  if (channels === 2) return [planar[0]!, planar[0]!];
  const [l, r] = planar as [Float32Array, Float32Array];
  return [l.map((v, i) => (v + r[i]!) / 2)];
}

/** @param interleaved frames of `channels` channels; of one channel they are given back as they are */
export function planar(interleaved: Float32Array, channels: number): Float32Array[] {
  if (channels === 1) return [interleaved];
  const frames = Math.floor(interleaved.length / channels);
  return Array.from({ length: channels }, (_, c) => {
    const out = new Float32Array(frames);
    for (let i = 0; i < frames; i++) out[i] = interleaved[i * channels + c]!;
    return out;
  });
}
