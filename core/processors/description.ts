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
  /** Names of the whole-number values of a `choice`. */
  readonly choices?: readonly string[];
}

/** What a processor does to the first arrival of a signal, apart from what it adds behind it. */
export interface Direct {
  /** Frames by which the processed signal comes later by intent, beyond the latency that is made up for. */
  readonly delay: Samples;
  /** Factor; of a level-dependent processor, that below its threshold. */
  readonly gain: number;
  /** Whether both sides are folded onto the left one. */
  readonly folded?: boolean;
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
  /** Whether it does something else to a louder signal than to a soft one. */
  readonly levelDependent: boolean;
  /** Of a level-dependent processor: how far it turns a steady signal of this level down, in positive decibels. */
  reductionAt?(level: number, params: Readonly<Record<string, number>>): number;
  /** Whether it adds an effect to a signal that is heard beside it, and so stands fully wet on a return. */
  readonly ambient: boolean;
  /** The number by which the engine knows it. */
  readonly engineCode: number;
  /** Delay of the processed signal against the dry one, in frames. */
  latency(params: Readonly<Record<string, number>>, sampleRate: number): Samples;
  /** What the processed signal keeps of the signal itself; null when it is spread in time and has no single gain. */
  direct(params: Readonly<Record<string, number>>, sampleRate: number): Direct | null;
  /** Bytes of state that the engine keeps for it; the engine finds it zeroed. */
  stateBytes(channels: Channels, sampleRate: number): number;
  /** Values for the engine's parameter table, in the order in which the engine reads them. */
  engineParams(params: Readonly<Record<string, number>>, sampleRate: number): readonly number[];
}

/** A parameter's value, or its default where the insert leaves it out. */
export const valueOf = (parameter: Parameter, params: Readonly<Record<string, number>>): number =>
  params[parameter.id] ?? parameter.default;
