import type { Command } from '../edits/commands';
import type { Session } from '../session/types';
import type { OscArgument } from '../wire/osc';

/** The strips and VCAs that lie under the faders of one controller. */
export interface OscBank {
  /** The first of those that can lie there, from 0. */
  readonly first: number;
  readonly size: number;
}

/** What addresses are looked up in. */
export interface OscWorld {
  /** The session as it is at this moment: with drags under way, and every control where its lane has it. */
  readonly session: Session;
  readonly bank: OscBank;
  readonly transport: {
    /** Whether a window plays the session. */
    readonly there: boolean;
    readonly rolling: boolean;
    readonly position: number;
    readonly looping: boolean;
  };
}

/** What a message asks for. */
export type OscDone =
  /** A control moves. `key` names it: the same as long as it is the same one. */
  | {
      readonly type: 'edit';
      readonly key: string;
      readonly label: string;
      readonly commands: readonly Command[];
    }
  | { readonly type: 'play' | 'stop' | 'undo' | 'redo' | 'unsubscribe' }
  | { readonly type: 'loop'; readonly on: boolean }
  | { readonly type: 'locate'; readonly at: number }
  | { readonly type: 'bank'; readonly bank: OscBank }
  | { readonly type: 'open'; readonly name: string }
  | { readonly type: 'subscribe'; readonly asked: readonly OscArgument[] }
  | { readonly type: 'pair'; readonly code: string };

/** An address at which something is told, taken, or both. */
export interface OscLeaf {
  /** What it is for, and what is told or taken there, with its unit: docs/osc.md says so. */
  readonly about: string;
  readonly holds: string;
  /** The one that it is told under: by number where there is one. */
  readonly address: string;
  /** The thing that what it tells follows from: as long as it stays the same object, so does what is told. */
  readonly from: object | null;
  tell?(): OscArgument;
  /** @throws Refusal that says what it takes */
  take?(args: readonly OscArgument[]): OscDone | null;
}
export interface OscBranch {
  /** The names of its children: of one that has a number, that first. */
  names(): readonly (readonly string[])[];
  find(name: string): OscNode | undefined;
}
export type OscNode = OscLeaf | OscBranch;
export const isBranch = (n: OscNode): n is OscBranch => 'names' in n;
