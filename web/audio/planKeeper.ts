import { LivePlan } from '@core/plan/livePlan';
import { withDelta, type Delta } from '@core/session/delta';
import type { PlanCost } from '@core/plan/plan';
import { sameShape } from '@core/plan/shape';
import type { Id } from '@core/base/units';
import type { Session } from '@core/session/types';
import type { PlayedOutput } from './channels';
import type { WorkletSource } from './ringFeed';
import type { WorkletMessage } from './worklet';

/** How a plan's strips are connected to what is outside of the engine. */
export interface Wiring {
  /** A number that grows with every plan. */
  readonly serial: number;
  readonly sources: readonly WorkletSource[];
  readonly outputs: readonly PlayedOutput[];
  readonly slots: Readonly<Record<string, number>>;
  readonly dynamics: Readonly<Record<string, number>>;
}
/** A new state of the session. */
export interface SessionNews {
  readonly type: 'session';
  /** How it came from the state before, the first from null; null where it is the same. */
  readonly delta: Delta | null;
  /** Given where the engine needs another plan; left out where parameters alone have moved. */
  readonly wiring?: Wiring;
  /** Strips that will be captured: a plan for them is made before it is wired, where none is there. */
  readonly ahead?: readonly Id[];
}

/** Seconds around the playhead in which curves are drawn before anything is played there. */
const BEFORE = 0.5;
const AHEAD = 1.5;
/** Seconds that are drawn before the rest. */
const SOON = 40;

/** Where the song stands, and where it begins again; seconds. */
export interface Place {
  readonly rolling: boolean;
  readonly position: number;
  readonly loopStart: number | null;
}

/**
 * Keeps the plan of what is heard, away from the page's thread. All that the audio thread is told goes by here, in one order: plans,
 * parameters that moved, what is drawn of their curves, and when to play.
 */
export class PlanKeeper {
  private session: Session | null = null;
  private live: LivePlan | null = null;
  /** Strips that the plan captures which was made before it was wired; null once it was given. */
  private ahead: readonly Id[] | null = null;

  /**
   * @param tell tells the audio thread
   * @param planned told of each new plan
   * @param place where the song stands now
   */
  constructor(
    private readonly tell: (message: WorkletMessage) => void,
    private readonly planned: (serial: number, costs: readonly PlanCost[]) => void,
    private readonly place: () => Place,
  ) {}

  /** Whether curves are left to be drawn. */
  get busy(): boolean {
    return this.live !== null && !this.ahead && !this.live.whole;
  }
  get rate(): number {
    return this.session?.sampleRate ?? 48000;
  }

  take({ delta, wiring, ahead }: SessionNews): void {
    const before = this.session;
    if (delta) this.session = withDelta(before, delta) as Session;
    const session = this.session!;
    if (ahead) {
      this.live = new LivePlan(session, { capture: ahead });
      this.ahead = ahead;
      return;
    }
    const near = this.near(this.place().position);
    if (wiring) {
      const { serial, sources, outputs, slots, dynamics } = wiring;
      const capture = outputs.map((o) => o.strip);
      if (this.live && this.ahead?.join() === capture.join() && sameShape(before!, session))
        this.live.steer(session, near);
      else this.live = new LivePlan(session, { capture }, this.live);
      this.ahead = null;
      // While nothing plays, a plan does not wait for its curves.
      if (this.place().rolling) this.live.draw(...near);
      const plan = this.live.give();
      this.planned(serial, plan.costs);
      this.tell({ type: 'plan', plan: { ...plan, serial }, sources, outputs, slots, dynamics });
    } else if (this.live) this.steer(this.live.steer(session, near));
  }

  /** Has the curves around a place be there before it is played. @param seconds from the start of the song */
  prepare(seconds: number): void {
    if (this.live) this.steer(this.live.draw(...this.near(seconds)).told);
  }

  /** Draws more: first what comes soon, then where a loop begins, then all. @param late whether it is to stop for now */
  goOn(late: () => boolean): void {
    const { position, loopStart } = this.place();
    const spans = [
      [position - BEFORE, position + SOON],
      ...(loopStart === null ? [] : [[loopStart - BEFORE, loopStart + SOON]]),
      [-Infinity, Infinity],
    ] as const;
    for (const [from, to] of spans) {
      const { told, done } = this.live!.draw(from, to, late);
      this.steer(told);
      if (!done) return;
    }
  }

  private near(seconds: number): readonly [number, number] {
    return [seconds - BEFORE, seconds + AHEAD];
  }
  private steer(told: ReturnType<LivePlan['steer']>) {
    if (told.runs.length || told.curves.length) this.tell({ type: 'steer', ...told });
  }
}
