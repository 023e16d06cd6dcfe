import type { Channels } from '../session/types';
import type { Id, Samples } from '../base/units';
import type { Curve } from './curve';

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
  /** What moves parameters while it plays; the host says where in the song it stands. */
  readonly curves: readonly Curve[];
  /** Runs of parameters with their names, the same in every plan of a session. */
  readonly params: readonly ParamRun[];
  readonly states: readonly KeptState[];
  /** Where the host writes the stems, a block at a time. */
  readonly sources: readonly Port[];
  /** What the host reads: the outputs, or what a print asked for. */
  readonly captures: readonly Capture[];
  /** `audio` is where the strip's signal stands after its fader, inserts and pan when a block has run. */
  readonly meters: readonly (Port & { readonly audio: number })[];
  /**
   * Where the level-dependent inserts tell of the last block, a channel at a time and so many bytes apart: by how many
   * decibels they turned down, and the level that they heard; behind the header, of so many bands, how far each has gone.
   */
  readonly reductions: readonly {
    readonly strip: Id;
    readonly insert: Id;
    readonly offset: number;
    readonly channels: number;
    readonly stride: number;
    readonly moves: number;
  }[];
  /** What the operations of processors compute: one insert, or up to four that share an operation. */
  readonly costs: readonly PlanCost[];
}

export interface ParamRun {
  readonly key: string;
  readonly at: number;
  readonly count: number;
  /** Which of its values are set at once, by hand and where a curve jumps: what reads them crosses over by itself. */
  readonly steps: readonly number[];
}

export interface PlanCost {
  /** Offset of the operation from the plan's base. */
  readonly op: number;
  /** An insert for each lane that it fills, so that a stereo one stands twice. */
  readonly inserts: readonly { readonly strip: Id; readonly insert: Id }[];
}

/** What of a running plan is to be another: parameters by their places, and the curves that move them. */
export interface PlanSteering {
  readonly runs: readonly { readonly at: number; readonly values: readonly number[] }[];
  /** A curve that takes the place of the one of the same run; null takes it away. */
  readonly curves: readonly { readonly at: number; readonly curve: Omit<Curve, 'at'> | null }[];
}
