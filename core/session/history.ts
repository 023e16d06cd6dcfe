import type { Command } from './commands/types';

export type ChangeKind = 'edit' | 'undo' | 'redo';

/** One step of a session's history: what was done, and what takes it back. */
export interface Change {
  readonly revision: number;
  readonly kind: ChangeKind;
  readonly label: string;
  readonly changeId: string;
  readonly commands: readonly Command[];
  readonly inverse: readonly Command[];
}

export interface UndoStacks {
  /** The last is undone first. */
  readonly undo: readonly Change[];
  /** The last is redone first. */
  readonly redo: readonly Change[];
}

/**
 * What can be undone and redone after these changes, oldest first. An undo moves the last edit to the redo stack, a redo
 * moves it back, an edit clears the redo stack. It is a function of the history, so it is the same in every window and
 * after a restart.
 */
export function undoStacks(changes: readonly Change[]): UndoStacks {
  const undo: Change[] = [];
  const redo: Change[] = [];
  for (const change of changes) {
    if (change.kind === 'edit') {
      undo.push(change);
      redo.length = 0;
    } else if (change.kind === 'undo') {
      const taken = undo.pop();
      if (taken) redo.push(taken);
    } else {
      const back = redo.pop();
      if (back) undo.push(back);
    }
  }
  return { undo, redo };
}
