import { LoudnessMeter } from '../core/metering/loudness';
import { compilePlan } from '../core/plan/compile';
import { BLOCK, METER_FLOATS } from '../core/plan/layout';
import { stripMap } from '../core/session/lookup';
import type { Session } from '../core/session/types';
import type { Decibels, Id, Samples } from '../core/base/units';
import { Engine } from './engine';
import type { StemReader } from './print';

export interface MeasureRequest {
  readonly session: Session;
  /** Where the excerpt begins; what sounds before it is run too, so that tails and detectors stand where they would. */
  readonly start: Samples;
  readonly frames: Samples;
  readonly stems: StemReader;
  readonly module: WebAssembly.Module;
  readonly signal?: AbortSignal;
  /** Told the share that is done. */
  readonly progress?: (share: number) => void;
  /** Whether level and loudness are wanted, or peaks alone. */
  readonly levels?: boolean;
}

export interface StripReading {
  readonly strip: Id;
  /** Highest sample after fader, inserts and pan, linear. */
  readonly peak: number;
  /** Root mean square over both sides; null for silence, and where peaks alone were wanted. */
  readonly rmsDb: Decibels;
  /** Integrated loudness, LUFS. */
  readonly loudness: Decibels;
}
export interface ReductionReading {
  readonly strip: Id;
  readonly insert: Id;
  /** Mean and greatest gain reduction, positive decibels. */
  readonly mean: number;
  readonly most: number;
}
export interface Measurement {
  readonly strips: readonly StripReading[];
  readonly reductions: readonly ReductionReading[];
}

const PIECE = BLOCK * 128;
/** How far before the excerpt the engine begins to run. */
const PRE_ROLL_SECONDS = 4;

/** Runs an excerpt through the engine and reads every strip's level, and every level-dependent insert's gain reduction. */
export async function measure(request: MeasureRequest): Promise<Measurement> {
  const { session, stems } = request;
  const levels = request.levels ?? true;
  const start = Math.floor(request.start / BLOCK) * BLOCK;
  const end = start + Math.ceil(request.frames / BLOCK) * BLOCK;
  const from = Math.max(0, Math.floor((start - PRE_ROLL_SECONDS * session.sampleRate) / BLOCK) * BLOCK);
  const plan = compilePlan(session, { capture: levels ? session.strips.map((s) => s.id) : [] });
  const engine = new Engine(request.module);
  engine.seek(from, true);
  engine.load(plan);
  const strips = stripMap(session);
  const sources = plan.sources.map((s) => strips.get(s.strip)!);
  const batch = engine.batch(PIECE / BLOCK);
  const loudness = plan.captures.map((c) => new LoudnessMeter(session.sampleRate, c.channels));
  const squares = plan.captures.map(() => 0);
  const sums = plan.reductions.map(() => 0);
  const most = plan.reductions.map(() => 0);
  let blocks = 0;
  for (let at = from; at < end; at += PIECE) {
    request.signal?.throwIfAborted();
    const here = Math.min(PIECE, end - at);
    await Promise.all(sources.map(async (strip, s) => stems.read(strip, at, batch.inputs[s]!)));
    for (let b = 0; b < here; b += BLOCK) {
      if (at + b === start) engine.clearPeaks();
      batch.run(b / BLOCK, 1);
      if (at + b < start) continue;
      blocks++;
      for (let r = 0; r < sums.length; r++) {
        const now = engine.reduction(r);
        sums[r]! += now;
        most[r] = Math.max(most[r]!, now);
      }
    }
    plan.captures.forEach(({ channels }, k) => {
      const heard = batch.outputs[k]!.subarray(Math.max(0, start - at) * channels, here * channels);
      if (heard.length === 0) return;
      let square = 0;
      for (let i = 0; i < heard.length; i++) square += heard[i]! * heard[i]!;
      squares[k]! += square / channels;
      loudness[k]!.push(heard);
    });
    request.progress?.(Math.min(1, (at + here - from) / (end - from)));
  }
  const reading = new Map(plan.captures.map((c, k) => [c.strip, k]));
  return {
    strips: plan.meters.map((m, i) => {
      const meter = engine.meter(i);
      let peak = 0;
      for (let c = 0; c < m.channels; c++) peak = Math.max(peak, meter[c * METER_FLOATS + 2]!);
      const k = reading.get(m.strip);
      const mean = k === undefined ? 0 : squares[k]! / (blocks * BLOCK);
      return {
        strip: m.strip,
        peak,
        rmsDb: mean > 1e-14 ? 10 * Math.log10(mean) : null,
        loudness: k === undefined ? null : loudness[k]!.integrated,
      };
    }),
    reductions: plan.reductions.map((r, i) => ({
      strip: r.strip,
      insert: r.insert,
      mean: blocks ? sums[i]! / blocks : 0,
      most: most[i]!,
    })),
  };
}
