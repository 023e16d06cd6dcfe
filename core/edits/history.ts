import type { Command } from './commands';
import { Refusal } from '../base/refusal';

export type ChangeKind = 'edit' | 'undo' | 'redo';

/** What a change is called, and what it does to others, without what it does to the document. */
export interface ChangeHead {
  readonly kind: ChangeKind;
  readonly label: string;
  /** Given by the window that made the change: one of a kind in its session. */
  readonly changeId: string;
  /** The edit that an undo takes back, or that a redo does again, by its `changeId`; null for an edit. */
  readonly of: string | null;
}

/** What a change does to the document, and what takes it back. */
export interface ChangeBody {
  readonly commands: readonly Command[];
  readonly inverse: readonly Command[];
}

/** One step of a session's history. */
export interface Change extends ChangeHead, ChangeBody {
  readonly revision: number;
}

/** An edit as it lies on a stack. */
export type StackedEdit = Pick<ChangeHead, 'changeId' | 'label'>;

export interface UndoStacks {
  /** The last is undone first. */
  readonly undo: readonly StackedEdit[];
  /** The last is redone first. */
  readonly redo: readonly StackedEdit[];
}

export const NO_STACKS: UndoStacks = { undo: [], redo: [] };

const without = (stack: readonly StackedEdit[], id: string) =>
  stack.at(-1)?.changeId === id ? stack.slice(0, -1) : stack;

/**
 * The stacks after one more change. An undo moves the last edit to the redo stack, a redo moves it back, an edit clears the
 * redo stack. What an undo names need not lie on the stack: where the oldest changes of a history were let go, it is known from
 * the undo alone.
 */
export function stacksAfter(
  { undo, redo }: UndoStacks,
  { kind, label, changeId, of }: ChangeHead,
): UndoStacks {
  if (kind === 'edit') return { undo: [...undo, { changeId, label }], redo: [] };
  const from = kind === 'undo' ? undo : redo;
  // Programs of before did not say which edit they meant: it is the last one.
  const moved = of === null ? from.at(-1) : { changeId: of, label };
  if (!moved) return { undo, redo };
  return kind === 'undo'
    ? { undo: without(undo, moved.changeId), redo: [...redo, moved] }
    : { undo: [...undo, moved], redo: without(redo, moved.changeId) };
}

/**
 * What can be undone and redone after these changes, oldest first. It is a function of the history, so it is the same in
 * every window and after a restart.
 */
export function undoStacks(changes: Iterable<ChangeHead>): UndoStacks {
  // The same as `stacksAfter` one after the other, in lists that grow: a history may have thousands of changes.
  const undo: StackedEdit[] = [];
  const redo: StackedEdit[] = [];
  for (const { kind, label, changeId, of } of changes) {
    if (kind === 'edit') {
      undo.push({ changeId, label });
      redo.length = 0;
      continue;
    }
    const [from, to] = kind === 'undo' ? [undo, redo] : [redo, undo];
    const moved = of === null ? from.at(-1) : { changeId: of, label };
    if (!moved) continue;
    if (from.at(-1)?.changeId === moved.changeId) from.pop();
    to.push(moved);
  }
  return { undo, redo };
}

/**
 * The edit that an undo takes back or a redo does again: the last on its stack.
 * @param of what the change names; null where it names none
 * @throws Refusal `order` where there is none, or it is not the last one
 */
export function editMeant({ undo, redo }: UndoStacks, kind: 'undo' | 'redo', of: string | null): StackedEdit {
  const top = (kind === 'undo' ? undo : redo).at(-1);
  if (!top) throw new Refusal('order', `There is nothing to ${kind}.`);
  if (of !== null && of !== top.changeId)
    throw new Refusal(
      'order',
      `“${top.label}” comes first: what was done last is ${kind === 'undo' ? 'taken back' : 'done again'} first.`,
      [top.changeId],
    );
  return top;
}

/** What an undo or a redo of an edit does: the edit's own commands, turned round or as they were. */
export const bodyOf = (kind: 'undo' | 'redo', { commands, inverse }: ChangeBody): ChangeBody =>
  kind === 'undo' ? { commands: inverse, inverse: commands } : { commands, inverse };
