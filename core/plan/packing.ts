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
export function grouped(list: readonly Waiting[]): readonly (readonly Waiting[])[] {
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

/**
 * Does the steps of strips that do not feed each other. Their chains go on side by side: those that wait at a processor of one
 * kind and latency share its operation.
 * @param latencyOf frames that an insert adds
 * @param pack writes the operations of inserts of one kind
 */
export function runTogether(
  strips: readonly (readonly Step[])[],
  latencyOf: (insert: Insert) => Samples,
  pack: (list: readonly Waiting[]) => void,
): void {
  const queues = strips.map((steps) => ({ steps, at: 0 }));
  for (;;) {
    const waiting = new Map<string, Waiting[]>();
    for (const q of queues) {
      for (let step = q.steps[q.at]; typeof step === 'function'; step = q.steps[++q.at]) step();
      const step = q.steps[q.at];
      if (step === undefined || typeof step === 'function') continue;
      const kind = `${step.insert.type}~${latencyOf(step.insert)}`;
      const list = waiting.get(kind) ?? [];
      if (list.push(step) === 1) waiting.set(kind, list);
    }
    const [first] = [...waiting.values()].sort((a, b) => b.length - a.length);
    if (!first) return;
    pack(first);
    const done = new Set<Step>(first);
    for (const q of queues) if (done.has(q.steps[q.at]!)) q.at++;
  }
}

/** Whether inserts of a kind share operations. */
export const isPacked = (insert: Insert): boolean => processorOf(insert.type).packed;
