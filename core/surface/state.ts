import type { ControlRef } from '../automation/control';
import type { Decibels, Id, Seconds } from '../base/units';
import type { Command } from '../edits/commands';
import type { AutomationMode, Session } from '../session/types';
import { MIDI_START, type MidiParserState } from '../wire/midi';
import type { Desk, DeskPatch } from './desk/desk';
import type { Material } from './material';
import type { SurfaceProfile } from './profile/profile';

/** What the desk is told of the world, each time that it is asked anything. */
export interface DeskContext {
  /** The session as it is at this moment: with drags under way, and every control where its lane has it. */
  readonly session: Session;
  readonly desk: Desk;
  /** @returns undefined where there is none (any more) */
  profile(id: string): SurfaceProfile | undefined;
  readonly material: Material;
  /** Strips that are picked, in the Sheet's order, and the one of them that was picked last. */
  readonly picked: readonly Id[];
  readonly focus: Id | null;
  readonly transport: {
    readonly rolling: boolean;
    readonly position: Seconds;
    readonly looping: boolean;
    /** What is looped, or would be. */
    readonly loop: { readonly start: Seconds; readonly end: Seconds } | null;
  };
  /** Controls that automation is writing now. */
  readonly writing: readonly ControlRef[];
  /** What a strip's meter stands at, in dBFS; null is silence. */
  meter(id: Id): Decibels;
  /** Sessions last opened, the latest first. */
  readonly recent: readonly { readonly id: string; readonly name: string }[];
  readonly undo: boolean;
  readonly redo: boolean;
  /** Milliseconds of a clock that goes forward. */
  readonly now: number;
}

/** What a hand, or a key, asks for. */
export type SurfaceAction =
  /**
   * A drag gives live edits, and one to keep when it ends. Of a control that cannot tell when the hand lets go comes
   * `settle`: live now, to be kept when it has rested for a moment. `drop` takes a drag back.
   */
  | {
      readonly type: 'live' | 'commit' | 'settle';
      readonly commands: readonly Command[];
      readonly label: string;
      readonly drag: string;
    }
  | { readonly type: 'drop'; readonly drag: string }
  | { readonly type: 'pick'; readonly strips: readonly Id[] }
  | { readonly type: 'play' | 'stop' | 'loop' | 'undo' | 'redo' }
  /** An action of the page's palette. */
  | { readonly type: 'run'; readonly action: string }
  /** The desk's own settings change. */
  | { readonly type: 'desk'; readonly patch: DeskPatch }
  /** The insert under the encoders, to be shown on the page. */
  | { readonly type: 'show'; readonly strip: Id; readonly insert: Id }
  | { readonly type: 'open'; readonly session: string };

/** A hand on a fader. */
export interface Grip {
  /** What was under it when it lay down; null where nothing was. */
  readonly target: string | null;
  readonly owner: Id | null;
  /** What it has done so far, to be kept when it ends. */
  readonly done: {
    readonly commands: readonly Command[];
    readonly label: string;
    readonly drag: string;
  } | null;
  /** Where it last put the fader, 0..16383; null where it has not moved. */
  readonly at: number | null;
  /** Something else came under it: it moves nothing until it lets go. */
  readonly held: boolean;
}

/** A key that is down. */
export interface Down {
  readonly role: string;
  readonly since: number;
  /** Whether it has served as a modifier meanwhile, so that letting it go does nothing more. */
  readonly used: boolean;
  /** Whether what it does after a second has been done. */
  readonly fired: boolean;
}

/** What is known of one device between two pieces of MIDI. */
export interface UnitState {
  readonly parser: MidiParserState;
  /** Halves of 14 bits that wait for their other half. */
  readonly upper: Readonly<Record<string, number>>;
  /** The non-registered parameter that was named last on each channel, and the upper half of its value. */
  readonly named: Readonly<
    Record<number, { readonly high: number; readonly low: number; readonly value: number | null }>
  >;
  /** Where each fader, or knob with ends, was last heard, or sent, to stand, 0..16383. */
  readonly heard: Readonly<Record<string, number>>;
  /** What was last sent to each control, so that only changes are sent. */
  readonly sent: Readonly<Record<string, string>>;
  readonly grips: Readonly<Record<string, Grip>>;
  /** Encoders that are touched or pushed. */
  readonly held: Readonly<Record<string, true>>;
  readonly down: Readonly<Record<string, Down>>;
  /** What a control without a motor has taken hold of, and where it left it. */
  readonly caught: Readonly<Record<string, { readonly target: string; readonly at: number }>>;
  /** When each encoder, or fader that tells no touch, was last moved. */
  readonly moved: Readonly<Record<string, number>>;
}
export const UNIT_START: UnitState = {
  parser: MIDI_START,
  upper: {},
  named: {},
  heard: {},
  sent: {},
  grips: {},
  held: {},
  down: {},
  caught: {},
  moved: {},
};

/** What a window shows: a reach, and what it was asked for with. */
export interface Reach {
  readonly id: string;
  /** The strip or VCA that it began from, the layout, or the family. */
  readonly subject: string | null;
  /** Strips that were picked when it was asked for. */
  readonly ids: readonly Id[];
}
export interface WindowState {
  readonly reach: Reach;
  /** Place, among what the reach shows, of what lies at the left of the window. */
  readonly first: number;
  /** Where the same key leads back to. */
  readonly back: { readonly reach: Reach; readonly first: number } | null;
  /** What lies in the window while it follows the song; null marks a place that has become free. */
  readonly following: readonly (Id | null)[] | null;
}

/** What the encoders steer. */
export interface EncoderState {
  readonly mode: 'across' | 'along' | 'columns' | 'spread';
  readonly across: string;
  readonly along: string;
  /** What is chosen of each that has a choice: a return, a band. */
  readonly choice: Readonly<Record<string, string>>;
  /** The page of each function, from 0. */
  readonly page: Readonly<Record<string, number>>;
  /** The kind of processor, and the insert, that was taken last. */
  readonly insert: { readonly type: string; readonly id: Id | null };
  /** The strip that they stay on; null where they go with what is picked. */
  readonly lock: Id | null;
  /** The unit on whose encoders it lies while it goes along a strip; null: the one with the most. */
  readonly unit: string | null;
}

/** A value that a hand has just moved: how long it is shown, and which way to go where it has not been caught yet. */
export interface Shown {
  readonly until: number;
  readonly go: 'up' | 'down' | null;
}

/** What the desk remembers between two things that happen. Plain data. */
export interface DeskState {
  readonly units: Readonly<Record<string, UnitState>>;
  /** The window of the joined units by '', of each unit apart by its id. */
  readonly windows: Readonly<Record<string, WindowState>>;
  readonly encoders: EncoderState;
  /** Whether what the encoders steer lies on the faders. */
  readonly flip: boolean;
  /** The strip or VCA that was picked last. */
  readonly focus: Id | null;
  /** What was picked when it was last looked at, and what the desk itself has asked to be picked since. */
  readonly seen: readonly Id[];
  readonly asked: readonly Id[] | null;
  readonly layer: 1 | 2;
  readonly message: { readonly text: string; readonly until: number } | null;
  /** The list of recent sessions on the display: what is chosen in it. */
  readonly list: number | null;
  /** Values that are shown because a hand has just moved them, by the control's key. */
  readonly shown: Readonly<Record<string, Shown>>;
  /** What was told last of what lies under the encoders. */
  readonly followed: string;
  /** The modes that strips had before they went to trim. */
  readonly beforeTrim: Readonly<Record<Id, AutomationMode>>;
}

export const REACH_ALL: Reach = { id: 'all', subject: null, ids: [] };
export const WINDOW_START: WindowState = { reach: REACH_ALL, first: 0, back: null, following: null };
export const DESK_START: DeskState = {
  units: {},
  windows: {},
  encoders: {
    mode: 'across',
    across: 'pan',
    along: 'insert',
    choice: {},
    page: {},
    insert: { type: 'equalizer', id: null },
    lock: null,
    unit: null,
  },
  flip: false,
  focus: null,
  seen: [],
  asked: null,
  layer: 1,
  message: null,
  list: null,
  shown: {},
  followed: '',
  beforeTrim: {},
};

/** How long a message stays on a display, and a value after the hand has gone, in milliseconds. */
export const MESSAGE_MS = 2500;
export const SHOWN_MS = 1200;
/** How long a hand is taken to rest on a control that cannot tell. */
export const RESTS_MS = 1000;
/** How long a key is held that takes things away. */
export const HOLD_MS = 1000;
/** Half the time of a blink. */
export const BLINK_MS = 250;

export const unitState = (state: DeskState, unit: string): UnitState => state.units[unit] ?? UNIT_START;
export const withUnit = (state: DeskState, unit: string, patch: Partial<UnitState>): DeskState => ({
  ...state,
  units: { ...state.units, [unit]: { ...unitState(state, unit), ...patch } },
});
/** A record with an entry set, or taken out. */
export function put<T>(
  record: Readonly<Record<string, T>>,
  key: string,
  value: T | undefined,
): Readonly<Record<string, T>> {
  if (value !== undefined) return { ...record, [key]: value };
  return key in record ? Object.fromEntries(Object.entries(record).filter(([k]) => k !== key)) : record;
}
/** The state with something told on the display. */
export const told = (state: DeskState, text: string, now: number): DeskState => ({
  ...state,
  message: { text, until: now + MESSAGE_MS },
});
