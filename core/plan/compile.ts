import { insertLatency, latencies, type LatencyOf } from '../routing/latency';
import { signalRanks } from '../session/order';
import { audibleStrips } from '../routing/solo';
import { stripMap } from '../session/lookup';
import type { Session } from '../session/types';
import type { Hertz, Id } from '../base/units';
import { CurveDrawing, type Curve } from './curve';
import { align, Emitter } from './emitter';
import { numberJumpFrames } from '../base/jump';
import { BLOCK, HEADER, HEADER_BYTES, OP } from './layout';
import { runTogether } from './packing';
import type { PlanFacts } from './parameters';
import { ParameterTable, type PlacedRun } from './parameterTable';
import type { Plan } from './plan';
import { capturedOf, StripWalk } from './stripWalk';

export interface CompileOptions {
  /** Strips whose signal is wanted; the output strips when left out. */
  readonly capture?: readonly Id[];
  readonly latencyOf?: LatencyOf;
  /** Whether every strip has a meter; it has when left out. */
  readonly meters?: boolean;
}

/**
 * Time constant of moves by hand: a parameter follows as through three equal one-pole filters, (T d/dt + 1)^3 x = target, so that
 * it sets off and arrives without a corner and without a bend. Half of a step is done after 2.7 T, 99 % after 8.4 T.
 */
const SMOOTHING_SECONDS = 0.0033;
/** Fall of a peak reading, 20 dB in 1.7 s: IEC 60268-10, Type I (from memory). */
const PEAK_FALL_DB_PER_SECOND = 20 / 1.7;
/** Time constant of the RMS reading; common practice, no published source. */
const RMS_SECONDS = 0.3;

/**
 * Gathers what the parameters of a session depend on.
 * @param before facts of a session of the same shape, which are the same but for levels
 * @throws Refusal `cycle`, or `unknown` for a processor that there is not
 */
export function planFacts(session: Session, options: CompileOptions = {}, before?: PlanFacts): PlanFacts {
  const strips = stripMap(session);
  if (before) return { ...before, session, strips, audible: audibleStrips(session) };
  const latencyOf = options.latencyOf ?? insertLatency;
  const wanted = options.capture ?? session.strips.filter((s) => s.kind === 'output').map((s) => s.id);
  return {
    session,
    strips,
    latencyOf,
    late: latencies(session, latencyOf),
    audible: audibleStrips(session),
    keying: new Set(session.strips.flatMap((s) => s.inserts.flatMap((i) => i.key ?? []))),
    captured: capturedOf(session, strips, wanted),
  };
}

/**
 * Begins the drawing of what lanes make of a run of parameters; null where no lane moves it.
 * @param before a drawing of the same run that differs in the points of its lanes alone
 */
export function drawingOf(
  { recipe }: PlacedRun,
  sampleRate: Hertz,
  before: CurveDrawing | null = null,
): CurveDrawing | null {
  const { lanes, make, behind, told } = recipe;
  if (lanes.length === 0) return null;
  return new CurveDrawing(
    lanes,
    make,
    sampleRate,
    behind,
    before,
    told ? numberJumpFrames(sampleRate) : undefined,
  );
}

/** A plan whose curves are not drawn yet, with the runs that they would move. */
export interface Assembled {
  readonly plan: Plan;
  readonly facts: PlanFacts;
  /** Runs of parameters by strip and name. */
  readonly runs: ReadonlyMap<Id, ReadonlyMap<string, PlacedRun>>;
}

/**
 * Turns the document into the engine's plan, all but its curves. Strips are walked in the order of the signal, each through its
 * stages. Paths of different latency are aligned by delay lines before they add.
 * @throws Refusal `cycle`, or `unknown` for a processor that there is not
 */
export function assemble(session: Session, options: CompileOptions = {}): Assembled {
  const facts = planFacts(session, options);
  const emitter = new Emitter();
  const table = new ParameterTable(facts);
  const walk = new StripWalk(facts, emitter, table, options.meters ?? true);
  for (const rank of signalRanks(session)) {
    // Strips of one rank do not feed each other; what they feed stands in later ranks.
    runTogether(
      rank.map((id) => walk.stepsOf(facts.strips.get(id)!)),
      (insert) => walk.latencyOf(insert),
      (group) => walk.pack(group),
    );
    walk.mixing.flushAll();
  }
  emitter.emit(OP.end);

  const count = align(table.targets.length * 4) / 4;
  const targetsAt = align(emitter.words.length * 4);
  const previousAt = targetsAt + count * 4;
  const currentAt = previousAt + count * 4;
  const startsAt = currentAt + count * 4;
  const endsAt = startsAt + count * 4;
  const turnsAt = endsAt + count * 4;
  const pathsAt = turnsAt + count * 4;
  const asleepAt = pathsAt + count * 4;
  const audioAt = align(asleepAt + count);
  emitter.relocate(audioAt);
  const words = new Int32Array(emitter.words);
  const floats = new Float32Array(words.buffer);
  words[HEADER.opsOffset] = HEADER_BYTES;
  words[HEADER.paramCount] = count;
  words[HEADER.targetsOffset] = targetsAt;
  words[HEADER.previousOffset] = previousAt;
  words[HEADER.currentOffset] = currentAt;
  words[HEADER.startsOffset] = startsAt;
  words[HEADER.endsOffset] = endsAt;
  words[HEADER.turnsOffset] = turnsAt;
  words[HEADER.pathsOffset] = pathsAt;
  words[HEADER.asleepOffset] = asleepAt;
  words[HEADER.sampleRate] = session.sampleRate;
  words[HEADER.changes] = 1;
  const block = BLOCK / session.sampleRate;
  floats[HEADER.smoothing] = Math.exp(-block / SMOOTHING_SECONDS);
  floats[HEADER.hurry] = block / SMOOTHING_SECONDS;
  floats[HEADER.peakFall] = 10 ** ((-PEAK_FALL_DB_PER_SECOND * block) / 20);
  floats[HEADER.rmsShare] = 1 - Math.exp(-block / RMS_SECONDS);

  const targets = new Float32Array(count);
  targets.set(table.targets);
  const place = <P extends { readonly offset: number }>(p: P): P => ({ ...p, offset: p.offset + audioAt });
  const plan: Plan = {
    bytes: align(audioAt + emitter.taken),
    words,
    targets,
    curves: [],
    params: table.runs,
    states: emitter.states.map(place),
    sources: walk.sources.map((s) =>
      place({ strip: s.id, channels: s.channels, offset: walk.buffers.get(s.id)! }),
    ),
    captures: [...facts.captured.keys()].map((id) => place(walk.captures.get(id)!)),
    meters: walk.meters.map((m) => ({ ...place(m), audio: m.audio + audioAt })),
    reductions: walk.reductions.map(place),
    costs: walk.costs,
  };
  return { plan, facts, runs: table.placed };
}

/**
 * Turns the document into the engine's plan, its curves drawn from their first point to their last.
 * @throws Refusal `cycle`, or `unknown` for a processor that there is not
 */
export function compilePlan(session: Session, options: CompileOptions = {}): Plan {
  const { plan, runs } = assemble(session, options);
  const curves: Curve[] = [];
  for (const strip of runs.values())
    for (const run of strip.values()) {
      const curve = drawingOf(run, session.sampleRate)?.drawWhole();
      if (curve) curves.push({ at: run.at, ...curve });
    }
  return { ...plan, curves };
}
