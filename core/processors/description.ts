import type { Transfer } from './filter';
import type { Channels, Hertz, Samples } from '../base/units';

/** How a parameter's travel maps to its value. */
export type Law = 'linear' | 'log';
export type Unit = 'dB' | 'Hz' | 's' | 'ms' | '%' | 'ratio' | 'choice' | 'st' | 'ct' | 'bit' | '';

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
  /** What it belongs to with others: a band of an equalizer, the key input. At most four stand in one group. */
  readonly group?: string;
  /** Whether the processor's latency depends on it, so that it cannot move while it plays. */
  readonly latent?: true;
}

export type Params = Readonly<Record<string, number>>;

/** What processors need to know of the session that they stand in. */
export interface Timebase {
  readonly sampleRate: Hertz;
  readonly tempo: {
    /** Quarter notes a minute. */
    readonly bpm: number;
  };
}

/** What a processor does to the first arrival of a signal, apart from what it adds behind it. */
export interface Direct {
  /** Frames by which the processed signal comes later by intent, beyond the latency that is made up for. */
  readonly delay: Samples;
  /** Factor; of a level-dependent processor, that below its threshold; of a filter, that at 1 kHz. */
  readonly gain: number;
  /** Gains left to left, right to left, left to right, right to right, where a stereo signal's sides do not pass alone. */
  readonly matrix?: readonly [number, number, number, number];
}

/**
 * What a processor spreads in time beside that: powers of a long impulse's answer, all frequencies together as they are in white
 * noise, of soft signals.
 */
export interface Tail {
  /** Powers left to left, right to left, left to right, right to right; the first alone of one channel. */
  readonly matrix: readonly [number, number, number, number];
  /** Powers on left and right of the mean of both sides, where they are folded first. */
  readonly folded?: readonly [number, number];
}

/** A band of one that has several, as its curve shows it: a point that is moved. */
export interface ResponseBand {
  readonly id: string;
  readonly name: string;
  readonly on: Parameter;
  readonly frequency: Parameter;
  readonly gain?: Parameter;
  readonly q?: Parameter;
  readonly slope?: Parameter;
  /** How far it moves by itself from its gain, where it does. */
  readonly range?: Parameter;
}

/** What of a processor can be drawn: level over frequency, output over input level, level over time. */
export type Curve = 'response' | 'static' | 'decay';

/** Numbers for the engine, by name: the same names and as many of each whatever the settings, in the same order. */
export type EngineParams = Readonly<Record<string, number | readonly number[]>>;

/**
 * What a processor says of itself. Its validation, its place in the session format, its plan slot, its editor, its page
 * in the docs and its surface mapping follow from this; adding a processor is one file that gives this, one line in the
 * registry, and its code in `engine/assembly/processors`, in a file named by its type.
 */
export interface Processor {
  readonly type: string;
  readonly name: string;
  /** As it fits in a cell of the Sheet. */
  readonly shortName: string;
  /** What it is for, in a sentence or two. */
  readonly about: string;
  readonly parameters: readonly Parameter[];
  /**
   * What it does with two channels: `each` alone, `linked` by a common detector, `joined` into one stereo process, or
   * `stereo`: it needs both and stands in stereo strips alone.
   */
  readonly channels: 'each' | 'linked' | 'joined' | 'stereo';
  readonly takesKey: boolean;
  /** Whether a share of the dry signal beside the processed one is of use. */
  readonly mixes: boolean;
  /** Whether it does something else to a louder signal than to a soft one. */
  readonly levelDependent: boolean;
  /** Whether it moves by itself or bends the wave, so that no impulse tells what it does. */
  readonly nonlinear: boolean;
  /** Whether it adds an effect to a signal that is heard beside it, and so stands fully wet on a return. */
  readonly ambient: boolean;
  /** Its formulas, a sentence each, so that a stranger can compute what it does. */
  readonly computes?: readonly string[];
  /** What tests measure of it on what it gives, a sentence each. */
  readonly measured?: readonly string[];
  readonly curves: readonly Curve[];
  /** Of a level-dependent processor: how far it turns a steady signal of this level down, in positive decibels. */
  reductionAt?(level: number, params: Params): number;
  /** What a linear filter makes of a frequency, in level and phase. */
  transferAt?(hertz: Hertz, params: Params, sampleRate: Hertz): Transfer;
  /** Gain of it at a frequency, in decibels. */
  responseAt?(hertz: Hertz, params: Params, sampleRate: Hertz): number;
  /** Its bands, in the order of their frequencies; their parameters stand in groups of their names. */
  readonly bands?: readonly ResponseBand[];
  /** Gain of one of them alone at a frequency, in decibels. @param band its place among them */
  bandResponseAt?(band: number, hertz: Hertz, params: Params, sampleRate: Hertz): number;
  /**
   * Where bands move by themselves: gain at a frequency, in decibels, where they have gone so many decibels from their gains; all of
   * their way where that is left out. The engine tells how far they have, a float a band behind its state's first bytes.
   */
  movedResponseAt?(hertz: Hertz, params: Params, sampleRate: Hertz, moves?: readonly number[]): number;
  /** Settings by which what one band works on is heard by itself. @param band its place among them */
  bandAlone?(band: number, params: Params): Params;
  /** What an impulse leaves behind: repeats or a tail, as points of seconds and decibels. */
  decayOf?(params: Params, timebase: Timebase): readonly (readonly [seconds: number, level: number])[];

  /** Whether the engine packs four channels of it, of whatever strips, into the lanes of one vector. */
  readonly packed: boolean;
  /** Of a packed one: whether the engine has a faster way for a channel that is alone. */
  readonly rows?: true;
  /** Of a packed one: whether the engine gives it its signal as late as its latency, and its key on time. */
  readonly looksAhead?: true;
  /**
   * Names of the engine's numbers that are given to it as they are asked, at once: it crosses over by itself to what they
   * say, because numbers between two of them say nothing of use.
   */
  readonly leaps?: readonly string[];
  /**
   * Of one that is late, names of the engine's numbers that act in its middle or where its signal leaves it, so that lanes reach them
   * with the signal that they act on; all others act where it comes in. They stand in that order among its numbers.
   */
  readonly acts?: Readonly<Record<string, 'middle' | 'end'>>;
  /** Delay of the processed signal against the dry one, in frames; made up for in the dry share of its mix too. */
  latency(params: Params, sampleRate: Hertz): Samples;
  /** What the processed signal keeps of the signal itself; null when it is spread in time and has no single gain. */
  direct(params: Params, timebase: Timebase): Direct | null;
  /** What it spreads in time beside that; left out where that is nothing, or, of one that keeps no copy, all of the power. */
  tail?(params: Params, timebase: Timebase, channels: Channels): Tail;
  /** Bytes of state that the engine keeps for it, a channel when packed; the engine finds it zeroed. */
  stateBytes(channels: Channels, sampleRate: Hertz): number;
  /** What the engine is told, by the names under which it reads it. */
  engineParams(params: Params, timebase: Timebase): EngineParams;
}

/** A parameter's value, or its default where the insert leaves it out. */
export const valueOf = (parameter: Parameter, params: Params): number =>
  params[parameter.id] ?? parameter.default;

/** Whether a choice between off and on is on. */
export const isOn = (parameter: Parameter, params: Params): boolean => valueOf(parameter, params) >= 0.5;

/** Share of the old value that a one-pole smoother of this time constant keeps in one frame. */
export const shareOf = (ms: number, sampleRate: Hertz): number => Math.exp(-1 / ((ms / 1000) * sampleRate));

/** First state bytes of a packed channel: reduction and detector level of the last block, in decibels. */
export const LANE_HEADER_BYTES = 16;
