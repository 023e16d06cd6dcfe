import { compilePlan } from '../core/plan/compile';
import { BLOCK, METER_FLOATS } from '../core/plan/layout';
import type { Capture } from '../core/plan/plan';
import { stripMap } from '../core/session/lookup';
import type { Session, Strip } from '../core/session/types';
import { processorOf } from '../core/processors/registry';
import type { Id, Samples, Seconds } from '../core/base/units';
import { Engine } from './engine';

/** Where a print or a measurement gets its audio. */
export interface StemReader {
  /**
   * Fills room with a strip's stem from frame `start` on: frames of the strip's channels, interleaved, at the session's
   * rate, and silence past the stem's end. A mono stem on a stereo strip stands on both sides; a stereo stem on a mono
   * strip is folded to (L+R)/2.
   */
  read(strip: Strip, start: Samples, into: Float32Array): void | Promise<void>;
}

export interface PrintPiece {
  readonly capture: Capture;
  /** Interleaved frames, good until the next piece is asked for. */
  readonly audio: Float32Array<ArrayBuffer>;
  /** The highest of them, either way. */
  readonly peak: number;
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
  /** Goes on behind `frames` until all that is printed is silent, for so many seconds at most. */
  readonly tail?: Seconds;
  /** Told at the end: how many frames of every strip are the print; what was given beyond them is to be left out. */
  readonly ended?: (frames: Samples) => void;
}

/** What is softer than this, -90 dBFS, and stays so for half a second behind the longest wait of any processor, is silence. */
const SILENT = 10 ** (-90 / 20);
const SILENT_SECONDS = 0.5;
/** The longest that a processor waits before it gives anything back. */
const longestWait = (session: Session): Seconds =>
  Math.max(
    0,
    ...session.strips.flatMap((s) =>
      s.inserts.map((i) => processorOf(i.type).decayOf?.(i.params, session)[0]?.[0] ?? 0),
    ),
  );

/** Blocks that are read and handed on at once, and bytes that all channels of them may take. */
const MOST_BLOCKS = 512;
const LEAST_BLOCKS = 32;
const PIECE_BYTES = 32 * 2 ** 20;

/**
 * Runs the session from time 0 and gives what the strips deliver, piece by piece. Every capture begins at time 0: what
 * processors delay is cut off at its start. The same code prints in a worker and in Node.
 */
export async function* print(request: PrintRequest): AsyncGenerator<readonly PrintPiece[]> {
  const { session, frames, stems } = request;
  const plan = compilePlan(session, { capture: request.strips, meters: request.peaks !== undefined });
  const engine = new Engine(request.module);
  engine.load(plan);
  const strips = stripMap(session);
  const sources = plan.sources.map((s) => strips.get(s.strip)!);
  const lag = Math.max(0, ...plan.captures.map((c) => c.latency));
  const channels = [...plan.sources, ...plan.captures].reduce((n, p) => n + p.channels, 0);
  const fitting = Math.floor(PIECE_BYTES / (channels * BLOCK * 4));
  const blocks = Math.max(LEAST_BLOCKS, Math.min(MOST_BLOCKS, fitting));
  const piece = blocks * BLOCK;
  const batch = engine.batch(blocks);
  const { sampleRate } = session;
  const most = frames + Math.round((request.tail ?? 0) * sampleRate);
  const quiet = Math.ceil((SILENT_SECONDS + longestWait(session)) * sampleRate);
  let until = frames;
  // Frames since something was last heard.
  let silence = 0;
  for (let at = 0; at < until + lag; at += piece) {
    request.signal?.throwIfAborted();
    // A tail goes by whole pieces: what comes after its end is left out.
    const here = request.tail ? piece : Math.min(piece, until + lag - at);
    await Promise.all(sources.map(async (strip, s) => stems.read(strip, at, batch.inputs[s]!)));
    // Behind the end nothing is played any more: what goes on is what it leaves.
    if (request.tail && at + here > frames)
      plan.sources.forEach(({ channels }, s) =>
        batch.inputs[s]!.fill(0, Math.max(0, frames - at) * channels),
      );
    batch.run(0, Math.ceil(here / BLOCK));
    if (request.tail) {
      const loud = plan.captures.some(
        ({ channels }, k) => peakOf(batch.outputs[k]!.subarray(0, here * channels)) > SILENT,
      );
      silence = loud ? 0 : silence + here;
      const given = at + here - lag;
      until = given < frames ? frames : silence < quiet ? Math.min(most, given + 1) : Math.min(most, given);
    }
    // In a tail all of them go on to the end of the piece: what some give beyond the others is left out at the end.
    const all = request.tail !== undefined;
    yield plan.captures.map((capture, k) => {
      const first = Math.max(at, capture.latency) - at;
      const end = all ? at + here : frames + capture.latency;
      const last = Math.max(first, Math.min(at + here, end) - at);
      const { channels } = capture;
      const audio = batch.outputs[k]!.subarray(first * channels, last * channels);
      const whole = first === 0 && last === here && here % BLOCK === 0;
      return { capture, audio, peak: whole ? batch.peak(k) : peakOf(audio) };
    });
  }
  request.ended?.(until);
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

function peakOf(audio: Float32Array): number {
  let peak = 0;
  for (let i = 0; i < audio.length; i++) peak = Math.max(peak, Math.abs(audio[i]!));
  return peak;
}

/**
 * Brings interleaved frames of a stem to the channels of its strip, and fills up with silence.
 * @param from frames of `channels` channels; @param into room for frames of `wanted` channels
 */
export function fitFrames(from: Float32Array, channels: number, into: Float32Array, wanted: number): void {
  const frames = from.length / channels;
  if (channels === wanted) into.set(from);
  else if (wanted === 1) for (let i = 0; i < frames; i++) into[i] = (from[2 * i]! + from[2 * i + 1]!) / 2;
  else for (let i = 0; i < frames; i++) into[2 * i] = into[2 * i + 1] = from[i]!;
  into.fill(0, frames * wanted);
}
