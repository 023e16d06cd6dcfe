import { BLOCK, HEADER, LANE_WORDS, LANES_WORDS, OP } from '../core/plan/layout';
import type { Plan } from '../core/plan/plan';
import type { Samples, Seconds } from '../core/base/units';

/** For how long an insert is bypassed before it is computed no more: who holds dry against wet goes back and forth sooner. */
const AFTER: Seconds = 3;
/** For how long it is computed again before it is heard, so that what is in it has come to where it would be. */
const WARM_UP: Seconds = 0.06;
/** What stands for an insert that sleeps, and for one that is to wake: see `HEADER.asleepOffset`. */
const ASLEEP = 1;
const WAKES = 2;
/** What an insert that is not computed tells of itself: it turns nothing down, and hears nothing. */
const NOTHING_DB = -160;

/** A state of an insert, for one of its channels or for both. */
interface Kept {
  readonly offset: number;
  readonly bytes: number;
}
/** An insert by the place of its mix among the parameters. */
interface Watched {
  readonly mix: number;
  readonly states: readonly Kept[];
  /** Frame of the clock since which it is bypassed; null where it is not. */
  since: Samples | null;
  /** Where its mix goes once it is warm, and when that is. */
  waiting: { readonly to: number; readonly at: Samples } | null;
}

function watchedOf(plan: Plan): Map<number, Watched> {
  const found = new Map<number, Watched>();
  const add = (mix: number, kept: Kept) => {
    const known = found.get(mix);
    found.set(mix, { mix, states: [...(known?.states ?? []), kept], since: null, waiting: null });
  };
  for (const { op, inserts } of plan.costs) {
    const at = op / 4;
    const word = (i: number) => plan.words[at + i]!;
    if (word(0) === OP.process) add(word(7), { offset: word(5), bytes: word(6) });
    else
      inserts.forEach((_, lane) => {
        const first = LANES_WORDS + lane * LANE_WORDS;
        add(word(first + 2), { offset: word(first + 3), bytes: word(first + 4) });
      });
  }
  return found;
}

/** Tables of a running plan that this reads and writes. */
export interface BypassTables {
  readonly targets: Float32Array;
  readonly current: Float32Array;
  readonly asleep: Uint8Array;
  /** All of the plan's memory. */
  readonly bytes: Uint8Array;
}

/**
 * Sees to it that inserts which are bypassed by hand, and by no lane, are not computed after a while: their paths stay as long as
 * they were. What is switched on again is computed for a moment before it is heard.
 */
export class Bypass {
  private readonly inserts: Map<number, Watched>;
  private tables!: BypassTables;
  /** Parameters that curves move: those are computed always. */
  private moved = new Set<number>();
  private next: Samples = 0;

  constructor(private readonly plan: Plan) {
    this.inserts = watchedOf(plan);
  }
  private frames(seconds: Seconds): Samples {
    return Math.ceil(seconds * this.plan.words[HEADER.sampleRate]!);
  }

  /** Looks at tables: once they are there, and where memory has moved. */
  look(tables: BypassTables): void {
    this.tables = tables;
  }

  /** Says which parameters curves move. An insert that sleeps wakes at once where its mix is one of them. */
  follow(moved: Iterable<number>): void {
    this.moved = new Set(moved);
    const { asleep } = this.tables;
    for (const at of this.moved) if (asleep[at] === ASLEEP) asleep[at] = WAKES;
  }

  /** Takes over from the plan before what slept there. @param before where each of this plan's parameters stood in it */
  inherit(was: Bypass, before: ReadonlyMap<number, number>): void {
    for (const at of this.inserts.keys()) {
      const old = before.get(at);
      if (old !== undefined && was.inserts.has(old)) this.tables.asleep[at] = was.tables.asleep[old]!;
    }
  }

  /** Some states are new while others play on: what comes to them rises, for a delay or a tail that is struck would repeat it. @param states their offsets */
  begun(states: ReadonlySet<number>): void {
    const { asleep } = this.tables;
    for (const { mix, states: mine } of this.inserts.values())
      if (asleep[mix] === 0 && mine.some((s) => states.has(s.offset))) asleep[mix] = WAKES;
  }

  /** Before anything was heard: what is bypassed sleeps from the start. */
  begin(): void {
    const { current, targets, asleep } = this.tables;
    for (const at of this.inserts.keys())
      if (current[at] === 0 && targets[at] === 0 && !this.moved.has(at)) asleep[at] = ASLEEP;
  }

  /** Parameters were told where to go, all of the plan's: what slept is computed first. */
  toldAll(now: Samples): void {
    for (const w of this.inserts.values()) this.toldOne(w, now);
  }
  /** The same of a run of them. A hand moves many, and few are the mix of an insert. */
  told(now: Samples, at: number, count: number): void {
    for (let i = at; i < at + count; i++) {
      const w = this.inserts.get(i);
      if (w) this.toldOne(w, now);
    }
  }
  private toldOne(w: Watched, now: Samples) {
    const { targets, asleep } = this.tables;
    const target = targets[w.mix]!;
    if (w.waiting) {
      if (target === 0) w.waiting = null;
      else {
        w.waiting = { ...w.waiting, to: target };
        targets[w.mix] = 0;
      }
    } else if (target !== 0 && asleep[w.mix] === ASLEEP) {
      asleep[w.mix] = WAKES;
      w.waiting = { to: target, at: now + this.frames(WARM_UP) };
      targets[w.mix] = 0;
    }
    this.next = now;
  }

  /**
   * Looks, before a block, at what has changed; most of the time there is nothing to look at.
   * @returns whether a parameter has been told to go elsewhere
   */
  run(now: Samples): boolean {
    if (now < this.next) return false;
    let told = false;
    let next = now + this.frames(AFTER);
    const { targets, current, asleep } = this.tables;
    for (const w of this.inserts.values()) {
      const { mix, waiting } = w;
      if (waiting) {
        if (now >= waiting.at) {
          targets[mix] = waiting.to;
          w.waiting = null;
          told = true;
        } else next = Math.min(next, waiting.at);
        continue;
      }
      if (asleep[mix] === ASLEEP) continue;
      if (current[mix] !== 0 || targets[mix] !== 0 || this.moved.has(mix)) {
        w.since = null;
        // Whether it comes to rest is looked at now and then.
        if (targets[mix] === 0 && !this.moved.has(mix)) next = Math.min(next, now + 8 * BLOCK);
        continue;
      }
      w.since ??= now;
      const at = w.since + this.frames(AFTER);
      if (now >= at) this.sleep(w);
      else next = Math.min(next, at);
    }
    this.next = next;
    return told;
  }

  private sleep(w: Watched) {
    w.since = null;
    this.tables.asleep[w.mix] = ASLEEP;
    const { bytes } = this.tables;
    for (const { offset, bytes: length } of w.states) {
      bytes.fill(0, offset, offset + length);
      // Those that tell what they hear do so in their second number; of others it is as good as any that is cleared.
      if (this.tells.has(offset))
        new DataView(bytes.buffer, bytes.byteOffset).setFloat32(offset + 4, NOTHING_DB, true);
    }
  }
  private get tells(): ReadonlySet<number> {
    return (this.tellsOf ??= new Set(
      this.plan.reductions.flatMap((r) =>
        Array.from({ length: r.channels }, (_, c) => r.offset + c * r.stride),
      ),
    ));
  }
  private tellsOf: ReadonlySet<number> | null = null;
}
