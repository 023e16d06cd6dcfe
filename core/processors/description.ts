import type { Channels } from '../session/types';
import type { Samples } from '../session/units';

/** How a parameter's travel maps to its value. */
export type Law = 'linear' | 'log';
export type Unit = 'dB' | 'Hz' | 's' | 'ms' | '%' | 'ratio' | 'choice' | '';

export interface Parameter {
  readonly id: string;
  readonly name: string;
  readonly unit: Unit;
  readonly min: number;
  readonly max: number;
  readonly default: number;
  readonly law: Law;
  readonly step: number;
}

/**
 * What a processor says of itself. Its validation, its place in the session format, its plan slot, its editor and its
 * surface mapping follow from this; adding a processor is one file that gives this, one line in the registry, and its
 * code in the engine.
 */
export interface Processor {
  readonly type: string;
  readonly name: string;
  /** As it fits in a cell of the Sheet. */
  readonly shortName: string;
  readonly parameters: readonly Parameter[];
  readonly takesKey: boolean;
  /** The number by which the engine knows it. */
  readonly engineCode: number;
  /** Delay of the processed signal against the dry one, in frames. */
  latency(params: Readonly<Record<string, number>>, sampleRate: number): Samples;
  /** Bytes of state that the engine keeps for it; the engine finds it zeroed. */
  stateBytes(channels: Channels, sampleRate: number): number;
  /** Values for the engine's parameter table, in the order in which the engine reads them. */
  engineParams(params: Readonly<Record<string, number>>, sampleRate: number): readonly number[];
}

/** A parameter's value, or its default where the insert leaves it out. */
export const valueOf = (parameter: Parameter, params: Readonly<Record<string, number>>): number =>
  params[parameter.id] ?? parameter.default;
