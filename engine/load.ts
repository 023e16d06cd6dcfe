import { compilePlan } from '../core/plan/compile';
import { BLOCK } from '../core/plan/layout';
import type { Plan } from '../core/plan/plan';
import { stripMap } from '../core/session/lookup';
import type { Session } from '../core/session/types';
import type { Id } from '../core/base/units';
import { Engine } from './engine';

export interface InsertLoad {
  readonly strip: Id;
  readonly insert: Id;
  readonly type: string;
  /** Share of real time, 1 is all of it. */
  readonly share: number;
}
export interface LoadReading {
  /** Share of real time that the whole session takes. */
  readonly share: number;
  readonly inserts: readonly InsertLoad[];
  /** Seconds of audio that were computed for it. */
  readonly seconds: number;
}

/**
 * What each insert takes of real time. Inserts that share an operation share its cost by the lanes they fill.
 * @param spent milliseconds that each of the plan's `costs` took; @param real milliseconds of audio that came of it
 */
export function insertLoads(
  session: Session,
  plan: Pick<Plan, 'costs'>,
  spent: ArrayLike<number>,
  real: number,
): readonly InsertLoad[] {
  const strips = stripMap(session);
  const shares = new Map<string, InsertLoad>();
  plan.costs.forEach((cost, i) => {
    for (const { strip, insert } of cost.inserts) {
      const type = strips.get(strip)?.inserts.find((x) => x.id === insert)?.type;
      if (!type) continue;
      const key = `${strip} ${insert}`;
      const share = (shares.get(key)?.share ?? 0) + spent[i]! / real / cost.inserts.length;
      shares.set(key, { strip, insert, type, share });
    }
  });
  return [...shares.values()];
}

export interface LoadRequest {
  readonly session: Session;
  readonly module: WebAssembly.Module;
  /** Milliseconds of a clock that is fine enough for single operations. */
  readonly clock: () => number;
  /** Seconds of audio for each run. */
  readonly seconds?: number;
  readonly runs?: number;
}

/** Noise at about -20 dBFS, so that dynamics have something to do. */
function noise(): Float32Array {
  let a = 12345;
  return Float32Array.from({ length: BLOCK }, () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return (a / 4294967296 - 0.5) * 0.35;
  });
}

/**
 * Runs the session on noise in this host and measures what it costs: the whole by runs without ticks, each insert by
 * runs with them. Of several runs the fastest counts.
 */
export function measureLoad(request: LoadRequest): LoadReading {
  const { session, clock } = request;
  const seconds = request.seconds ?? 0.5;
  const runs = request.runs ?? 5;
  const plan = compilePlan(session);
  const engine = new Engine(request.module);
  engine.load(plan);
  const input = noise();
  const blocks = Math.max(1, Math.round((seconds * session.sampleRate) / BLOCK));
  const run = () => {
    for (let b = 0; b < blocks; b++) {
      for (let s = 0; s < plan.sources.length; s++)
        for (let c = 0; c < plan.sources[s]!.channels; c++) engine.input(s, c).set(input);
      engine.run();
    }
  };
  const timed = () => {
    const begun = clock();
    run();
    return clock() - begun;
  };
  // Unmeasured until it gets no faster: hosts compile what runs often, and compile it anew.
  let before = timed();
  for (let k = 0; k < 12; k++) {
    const now = timed();
    if (now > 0.9 * before && k > 2) break;
    before = Math.min(now, before);
  }
  const real = (blocks * BLOCK * 1000) / session.sampleRate;
  // What disturbs a run only ever makes it longer.
  const fastest = (list: readonly number[]) => Math.min(...list);
  const whole: number[] = [];
  for (let k = 0; k < runs; k++) whole.push(timed());
  const single: number[][] = plan.costs.map(() => []);
  for (let k = 0; k < runs; k++) {
    engine.startMeasuring(clock);
    run();
    engine.stopMeasuring().forEach((ms, i) => single[i]!.push(ms));
  }
  const spent = plan.costs.map((_, i) => fastest(single[i]!));
  return {
    share: fastest(whole) / real,
    inserts: insertLoads(session, plan, spent, real),
    seconds: (blocks * BLOCK) / session.sampleRate,
  };
}
