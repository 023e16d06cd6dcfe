import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from './apply';
import { newSession } from '../session/defaults';
import {
  bodyOf,
  editMeant,
  NO_STACKS,
  stacksAfter,
  undoStacks,
  type Change,
  type ChangeHead,
  type ChangeKind,
} from './history';

const change = (changeId: string, kind: ChangeKind, of: string | null = null): ChangeHead => ({
  kind,
  label: changeId,
  changeId,
  of,
});
const names = (stack: readonly { readonly changeId: string }[]) => stack.map((c) => c.changeId);

describe('undo and redo', () => {
  it('move the last edit between the stacks, and an edit clears what could be redone', () => {
    const { undo, redo } = undoStacks([
      change('a', 'edit'),
      change('b', 'edit'),
      change('1', 'undo', 'b'),
      change('2', 'redo', 'b'),
      change('3', 'undo', 'b'),
      change('c', 'edit'),
    ]);
    expect([names(undo), names(redo)]).toEqual([['a', 'c'], []]);
  });

  it('are known from the end of a history too: what was undone is named by the undo', () => {
    // Edits 0..149, of which 120 were undone; the last 60 changes are all undos.
    const all = [
      ...Array.from({ length: 150 }, (_, i) => change(`e${i}`, 'edit')),
      ...Array.from({ length: 120 }, (_, i) => change(`u${i}`, 'undo', `e${149 - i}`)),
    ];
    expect(names(undoStacks(all).redo).at(-1)).toBe('e30');
    const { redo } = undoStacks(all.slice(-60));
    expect(names(redo).at(-1)).toBe('e30');
    expect(redo).toHaveLength(60);
  });

  it('of programs that did not say what they meant are of the last edit', () => {
    const { undo, redo } = undoStacks([change('a', 'edit'), change('b', 'edit'), change('1', 'undo')]);
    expect([names(undo), names(redo)]).toEqual([['a'], ['b']]);
  });

  it('are refused where there is nothing, or something else comes first', () => {
    const stacks = undoStacks([change('a', 'edit'), change('b', 'edit')]);
    expect(() => editMeant(NO_STACKS, 'undo', null)).toThrow(/nothing to undo/);
    expect(() => editMeant(stacks, 'redo', null)).toThrow(/nothing to redo/);
    expect(() => editMeant(stacks, 'undo', 'a')).toThrow(/“b” comes first/);
    expect(editMeant(stacks, 'undo', 'b').changeId).toBe('b');
  });

  it('bring the document back exactly, whatever is done in whatever order', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.constant('undo' as const),
            fc.constant('redo' as const),
            fc.string({ minLength: 1, maxLength: 8 }),
          ),
          { maxLength: 40 },
        ),
        (steps) => {
          let session = newSession('start');
          const changes: Change[] = [];
          let one = NO_STACKS;
          // An independent model: the list of all states, and where we stand in it.
          const model = { states: [session.name], at: 0 };
          for (const [i, step] of steps.entries()) {
            const stacks = undoStacks(changes);
            expect(one).toEqual(stacks);
            const kind: ChangeKind = step === 'undo' || step === 'redo' ? step : 'edit';
            const of = kind === 'edit' ? null : (stacks[kind].at(-1)?.changeId ?? null);
            if (kind !== 'edit' && of === null) continue;
            const commands =
              kind === 'edit'
                ? [{ type: 'session.set' as const, patch: { name: step } }]
                : bodyOf(
                    kind,
                    changes.find((c) => c.changeId === of)!,
                  ).commands;
            const done = apply(session, commands);
            session = done.session;
            changes.push({
              revision: i,
              kind,
              label: '',
              changeId: String(i),
              of,
              commands,
              inverse: done.inverse,
            });
            one = stacksAfter(one, changes.at(-1)!);
            if (kind === 'undo') model.at--;
            else if (kind === 'redo') model.at++;
            else model.states.splice(++model.at, Infinity, step);
            expect(session.name).toBe(model.states[model.at]);
          }
        },
      ),
    );
  });
});
