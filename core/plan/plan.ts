import type { Channels } from '../session/types';
import type { Id, Samples } from '../session/units';

/** A place in the plan's memory where a strip's audio stands: `channels` buffers of 128 floats one after another. */
export interface Port {
  readonly strip: Id;
  readonly channels: Channels;
  readonly offset: number;
}

export interface Capture extends Port {
  /** Frames by which this signal lies behind the stems. */
  readonly latency: Samples;
}

/** Memory that outlives a change of plan where the same key stands in both: delay lines, tails, meters. */
export interface KeptState {
  readonly key: string;
  readonly offset: number;
  readonly bytes: number;
}

/**
 * What the engine runs: operations in signal order over numbered buffers, one table of parameters. Plain data, so that
 * it can be sent to a worklet or a worker.
 */
export interface Plan {
  readonly bytes: number;
  /** Header and operations, as they stand at the plan's base. */
  readonly words: Int32Array;
  /** Where every parameter is heading. */
  readonly targets: Float32Array;
  /** A name for each parameter, the same in every plan of a session. */
  readonly paramKeys: readonly string[];
  readonly states: readonly KeptState[];
  /** Where the host writes the stems, a block at a time. */
  readonly sources: readonly Port[];
  /** What the host reads: the outputs, or what a print asked for. */
  readonly captures: readonly Capture[];
  readonly meters: readonly Port[];
  /** Where the level-dependent inserts tell by how much they turn down, in decibels of the last block: one float. */
  readonly reductions: readonly { readonly strip: Id; readonly insert: Id; readonly offset: number }[];
}

/** Whether two plans differ in parameters alone, so that the running one can be steered to the other. */
export function sameStructure(a: Plan, b: Plan): boolean {
  if (a.bytes !== b.bytes || a.words.length !== b.words.length) return false;
  for (let i = 0; i < a.words.length; i++) if (a.words[i] !== b.words[i]) return false;
  if (a.paramKeys.length !== b.paramKeys.length) return false;
  for (let i = 0; i < a.paramKeys.length; i++) if (a.paramKeys[i] !== b.paramKeys[i]) return false;
  const port = (p: Port) => `${p.strip} ${p.channels} ${p.offset}`;
  return (
    a.sources.length === b.sources.length &&
    a.sources.every((p, i) => port(p) === port(b.sources[i]!)) &&
    a.captures.length === b.captures.length &&
    a.captures.every((p, i) => port(p) === port(b.captures[i]!))
  );
}
