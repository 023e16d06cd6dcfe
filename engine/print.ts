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
   * stereo strip stands on both sides; a stereo stem on a mono strip is folded to (L+R)/2.
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
const PIECE = BLOCK * 256;

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
      audio.forEach((channels, s) =>
        channels.forEach((c, i) => engine.input(s, i).set(c.subarray(b, b + BLOCK))),
      );
      engine.run();
      pieces.forEach(({ capture, from, audio: out }, k) => {
        for (let c = 0; c < capture.channels; c++) {
          const block = engine.output(k, c);
          for (let i = 0; i < BLOCK; i++) {
            const n = b + i - from;
            if (n >= 0 && n * capture.channels < out.length) out[n * capture.channels + c] = block[i]!;
          }
        }
      });
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

/** Brings a stem's channels to those of its strip. @param planar the stem's own channels */
export function fitChannels(planar: readonly Float32Array[], channels: 1 | 2): readonly Float32Array[] {
  if (planar.length === channels) return planar;
  if (channels === 2) return [planar[0]!, planar[0]!];
  const [l, r] = planar as [Float32Array, Float32Array];
  return [l.map((v, i) => (v + r[i]!) / 2)];
}

/** @param interleaved frames of `channels` channels */
export function planar(interleaved: Float32Array, channels: number): Float32Array[] {
  const frames = Math.floor(interleaved.length / channels);
  return Array.from({ length: channels }, (_, c) => {
    const out = new Float32Array(frames);
    for (let i = 0; i < frames; i++) out[i] = interleaved[i * channels + c]!;
    return out;
  });
}
