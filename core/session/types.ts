import type { PreampSettings } from '../devices/preamp';
import type { Colour, Decibels, Hertz, Id, Pan, Seconds } from './units';

export type StripKind = 'source' | 'submix' | 'return' | 'output';
export type Tap = 'input' | 'pre' | 'post';
export type Place = 'pre' | 'post';
export type Channels = 1 | 2;
export type PanLaw = 0 | -3 | -4.5 | -6;

/** One point of an automation lane: when, and the value in the control's own unit; 0 and 1 of a switch. */
export type LanePoint = readonly [time: Seconds, value: Decibels];
/** A control's automation: points in the order of time. Two at one time are a jump. */
export type Lane = readonly LanePoint[];
/** Lanes by the id of the control that they move. */
export type Lanes = Readonly<Record<string, Lane>>;
/** What a strip does with its lanes: nothing, follows them, or follows them and writes what a hand does. */
export type AutomationMode = 'off' | 'read' | 'touch' | 'latch' | 'trim' | 'write';

/** A processor in a strip's chain, before or after its fader. */
export interface Insert {
  readonly id: Id;
  readonly type: string;
  readonly place: Place;
  readonly on: boolean;
  /** Share of the processed signal, 0 (dry) .. 1 (wet). */
  readonly mix: number;
  readonly params: Readonly<Record<string, number>>;
  /** The strip whose signal keys the processor, where it takes a key. */
  readonly key: Id | null;
  /** Automation of `on`, `mix` and of its parameters, by their ids. */
  readonly lanes: Lanes;
}

export interface Send {
  readonly id: Id;
  readonly to: Id;
  readonly tap: Tap;
  readonly levelDb: Decibels;
  readonly pan: Pan;
  readonly on: boolean;
  /** Automation of `level`, `pan` and `on`. */
  readonly lanes: Lanes;
}

/** Where a strip's dry path goes. `to` is null on an output strip: it leaves the session. */
export interface Out {
  readonly to: Id | null;
  readonly on: boolean;
}

export interface Strip {
  readonly id: Id;
  readonly kind: StripKind;
  readonly name: string;
  readonly family: string;
  readonly colour: Colour;
  readonly channels: Channels;
  /** Path of the audio inside the package, or the stem's address in the library; sources alone. */
  readonly stem: string | null;
  readonly trimDb: Decibels;
  readonly invert: boolean;
  readonly swap: boolean;
  /** 0 (mono) .. 1 (as it is) .. 2 (sides doubled); stereo strips. */
  readonly width: number;
  readonly faderDb: Decibels;
  readonly pan: Pan;
  readonly mute: boolean;
  readonly solo: boolean;
  readonly soloSafe: boolean;
  readonly hidden: boolean;
  /** First channel of the pair by which an output leaves: 1 is 1–2, 3 is 3–4; null on all other strips. */
  readonly pair: number | null;
  /** The input of the remote preamplifier that a source comes by, and what is asked of it; null where it has none. */
  readonly preamp: PreampSettings | null;
  /** For its own lanes and those of its sends and inserts. */
  readonly automation: AutomationMode;
  /** Automation of `fader`, `pan` and `mute`. */
  readonly lanes: Lanes;
  readonly inserts: readonly Insert[];
  readonly sends: readonly Send[];
  readonly out: Out;
}

/** A fader that carries no audio: its decibels are added to those of its members. */
export interface Vca {
  readonly id: Id;
  readonly name: string;
  readonly colour: Colour;
  readonly faderDb: Decibels;
  readonly mute: boolean;
  readonly solo: boolean;
  readonly automation: AutomationMode;
  /** Automation of `fader` and `mute`. */
  readonly lanes: Lanes;
  /** Ids of strips and of other VCAs. */
  readonly members: readonly Id[];
}

/** What a link moves together. */
export type LinkPart = 'fader' | 'pan' | 'mute' | 'solo' | 'sends' | 'inserts' | 'automation';

/** Strips that are moved together, in both directions: what is done to one is done to all. */
export interface Link {
  readonly id: Id;
  readonly name: string;
  readonly on: boolean;
  readonly members: readonly Id[];
  readonly parts: readonly LinkPart[];
  /** Whether differences between its members are kept; else all get the same value. */
  readonly keeps: boolean;
}

export interface Section {
  readonly id: Id;
  readonly name: string;
  readonly start: Seconds;
  readonly end: Seconds;
}

export interface Tempo {
  readonly bpm: number;
  readonly beatsPerBar: number;
  readonly beatUnit: number;
}

/** The whole session, immutable: see docs/session-format.md. */
export interface Session {
  readonly format: 'zonula-session';
  readonly version: 1;
  readonly name: string;
  readonly sampleRate: Hertz;
  readonly panLaw: PanLaw;
  readonly tempo: Tempo;
  readonly sections: readonly Section[];
  readonly strips: readonly Strip[];
  readonly vcas: readonly Vca[];
  readonly links: readonly Link[];
  /** The output that is heard; null is the first one. */
  readonly monitor: Id | null;
  /** Keys of findings that the engineer has looked at and let stand. */
  readonly dismissed: readonly string[];
}
