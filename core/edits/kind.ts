import type { Field, Fields } from '../session/fields/shape';
import { field } from '../session/fields/shape';
import { LIMITS } from '../base/limits';
import type { Id } from '../base/units';
import type { Draft } from './draft';
import type { Command } from './commands';

/** The command of a type. */
export type CommandOf<T extends Command['type']> = Extract<Command, { readonly type: T }>;

/** One kind of edit: what it says, what it does, and what takes it back. */
export interface CommandKind<T extends Command['type'] = Command['type']> {
  /** What it holds beside its type. */
  readonly fields: Fields;
  /** Does it. @returns what takes it back @throws Refusal */
  run(draft: Draft, command: CommandOf<T>): Command;
  /** Whether it can break a rule: of the whole session, as where this is left out, or of the things that it changes. */
  ruled?(command: CommandOf<T>): boolean | 'itself';
  /** Whether it removes something, or brings something in: that is for who may do everything. */
  readonly removes?: true;
  /** The strip that it is done to, where it is done to one that a link may pass it on from. */
  strip?(command: CommandOf<T>): Id;
}

/** The id of what a command is about. */
export const ID: Field<{ readonly kind: 'id' }> = field({ kind: 'id' });
/** A place in a list. */
export const AT = field({ kind: 'number', min: 0, max: LIMITS.strips, whole: true });
