import { processorOf } from '../processors/registry';
import type { Insert, Strip } from '../session/types';
import type { Samples } from '../base/units';
import { LANES } from './layout';

/** An insert of a packed processor that waits for others of its kind; `late` counts the frames by which its signal lies behind the stems. */
export interface Waiting {
  readonly strip: Strip;
  readonly insert: Insert;
  readonly late: Samples;
}

/** A strip's work: what is done at once, and inserts that may share an operation with those of other strips. */
export type Step = Waiting | (() => void);

/** Inserts of one kind in groups that fill the lanes of an operation: a stereo insert takes two of them, side by side. */
function grouped(list: readonly Waiting[]): readonly (readonly Waiting[])[] {
  // Stereo inserts first, so that a pair never parts; then mono ones fill the lanes that are left.
  const stereo = list.filter((w) => w.strip.channels === 2);
  const mono = list.filter((w) => w.strip.channels === 1);
  const groups: Waiting[][] = [];
  while (stereo.length || mono.length) {
    const group: Waiting[] = [];
    let free: number = LANES;
    while (free >= 2 && stereo.length) {
      group.push(stereo.shift()!);
      free -= 2;
    }
    while (free >= 1 && mono.length) {
      group.push(mono.shift()!);
      free -= 1;
    }
    groups.push(group);
  }
  return groups;
}

interface Queue {
  readonly steps: readonly Step[];
  at: number;
}
/** What a strip has next, where that is an insert that may share an operation. */
function waitingOf({ steps, at }: Queue): Waiting | null {
  const step = steps[at];
  return step === undefined || typeof step === 'function' ? null : step;
}
const channelsOf = (group: readonly Waiting[]) => group.reduce((n, w) => n + w.strip.channels, 0);

/**
 * Does the steps of strips that do not feed each other. Their chains go on side by side: those that wait at a processor of one
 * kind and latency share its operation. Strips that fill an operation go on together as far as their chains are alike, so that
 * the engine need not take their signals apart in between.
 * @param latencyOf frames that an insert adds
 * @param pack writes the operation of a group of inserts of one kind
 */
export function runTogether(
  strips: readonly (readonly Step[])[],
  latencyOf: (insert: Insert) => Samples,
  pack: (group: readonly Waiting[]) => void,
): void {
  const queues: Queue[] = strips.map((steps) => ({ steps, at: 0 }));
  const kindOf = ({ insert }: Waiting) => `${insert.type}~${latencyOf(insert)}`;
  const packOn = (group: readonly Waiting[], of: ReadonlyMap<Step, Queue>) => {
    const mine = group.map((w) => of.get(w)!);
    for (let next: readonly Waiting[] = group; ;) {
      pack(next);
      for (const q of mine) q.at++;
      const after = mine.map(waitingOf);
      const first = after[0];
      if (!first || channelsOf(group) < LANES) return;
      if (!after.every((w): w is Waiting => w !== null && kindOf(w) === kindOf(first))) return;
      next = after;
    }
  };
  for (;;) {
    const waiting = new Map<string, Waiting[]>();
    const of = new Map<Step, Queue>();
    for (const q of queues) {
      for (let step = q.steps[q.at]; typeof step === 'function'; step = q.steps[++q.at]) step();
      const step = waitingOf(q);
      if (!step) continue;
      of.set(step, q);
      const list = waiting.get(kindOf(step)) ?? [];
      if (list.push(step) === 1) waiting.set(kindOf(step), list);
    }
    const [first] = [...waiting.values()].sort((a, b) => b.length - a.length);
    if (!first) return;
    for (const group of grouped(first)) packOn(group, of);
  }
}

/** Whether inserts of a kind share operations. */
export const isPacked = (insert: Insert): boolean => processorOf(insert.type).packed;
