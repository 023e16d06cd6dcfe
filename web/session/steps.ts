import type { ComputedRef, Ref, ShallowRef } from 'vue';
import { v4 as uuid } from 'uuid';
import type { Change } from '@core/edits/history';
import { ask } from './sync/api';
import { bodyKnown, withAsked, type Ledger, type NewChange } from './sync/ledger';
import { say } from './texts';

/** Edits below the top of a stack of which it is known beforehand what they did. */
const AHEAD = 10;
interface Step {
  readonly changeId: string;
  readonly label: string;
}
export interface StepHost {
  readonly id: Ref<string | null>;
  readonly ledger: ShallowRef<Ledger | null>;
  readonly stacks: ComputedRef<{ readonly undo: readonly Step[]; readonly redo: readonly Step[] }>;
  /** Keeps what rests: it is undone first. */
  readonly settled: () => void;
  readonly push: (change: NewChange) => boolean;
  readonly refused: (why: string) => void;
}

/** Undo and redo, each in its turn: what an old edit did is asked of the server. */
export function useSteps({ id, ledger, stacks, settled, push, refused }: StepHost) {
  /** What is being asked for before the next undo or redo. */
  let asking: Promise<void> | null = null;
  const top = (kind: 'undo' | 'redo') => stacks.value[kind].at(-1);

  /** @returns nothing where it is done, else what it waits for: what an old edit did is asked of the server */
  function takeStep(kind: 'undo' | 'redo'): Promise<void> | null {
    const edit = top(kind);
    if (!ledger.value || !edit) return null;
    if (!bodyKnown(ledger.value, edit.changeId))
      return learn(edit.changeId).then(
        () => (top(kind)?.changeId === edit.changeId ? (takeStep(kind) ?? undefined) : undefined),
        (error: Error) =>
          refused(
            say(kind === 'undo' ? 'undoRefused' : 'redoRefused', {
              edit: edit.label,
              message: error.message,
            }),
          ),
      );
    push({ changeId: uuid(), kind, label: edit.label, of: edit.changeId });
    void learnAhead();
    return null;
  }
  function inTurn(kind: 'undo' | 'redo') {
    settled();
    const wait = asking ? asking.then(() => takeStep(kind) ?? undefined) : takeStep(kind);
    if (!wait) return;
    const mine: Promise<void> = wait.finally(() => {
      if (asking === mine) asking = null;
    });
    asking = mine;
    // What was refused has been said.
    mine.catch(() => {});
  }
  const undo = () => inTurn('undo');
  const redo = () => inTurn('redo');

  /** Asks what an edit did. */
  async function learn(changeId: string): Promise<void> {
    const session = id.value;
    const { change } = await ask<{ change: Change }>('GET', `/sessions/${session}/changes/${changeId}`);
    if (id.value === session && ledger.value) ledger.value = withAsked(ledger.value, changeId, change);
  }
  let learning = false;
  /** Asks beforehand what the next edits to be undone did, so that nobody waits for it. */
  async function learnAhead() {
    if (learning) return;
    learning = true;
    try {
      for (;;) {
        const next = stacks.value.undo
          .slice(-AHEAD)
          .reverse()
          .find((e) => ledger.value && !bodyKnown(ledger.value, e.changeId));
        if (!next || !ledger.value) break;
        await learn(next.changeId);
      }
    } catch {
      // It is asked for again when it is needed.
    } finally {
      learning = false;
    }
  }
  return { undo, redo };
}
