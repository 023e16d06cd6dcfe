import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from './commands/apply';
import { newSession } from './defaults';
import { undoStacks, type Change, type ChangeKind } from './history';

const change = (revision: number, kind: ChangeKind, label: string): Change => ({
  revision,
  kind,
  label,
  changeId: String(revision),
  commands: [],
  inverse: [],
});

describe('undo and redo', () => {
  it('move the last edit between the stacks, and an edit clears what could be redone', () => {
    const changes = [
      change(1, 'edit', 'a'),
      change(2, 'edit', 'b'),
      change(3, 'undo', 'b'),
      change(4, 'redo', 'b'),
      change(5, 'undo', 'b'),
      change(6, 'edit', 'c'),
    ];
    const { undo, redo } = undoStacks(changes);
    expect(undo.map((c) => c.label)).toEqual(['a', 'c']);
    expect(redo).toEqual([]);
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
          // An independent model: the list of all states, and where we stand in it.
          const model = { states: [session.name], at: 0 };
          for (const [i, step] of steps.entries()) {
            const { undo, redo } = undoStacks(changes);
            const top = step === 'undo' ? undo.at(-1) : step === 'redo' ? redo.at(-1) : null;
            if (top === undefined) continue;
            const kind: ChangeKind = step === 'undo' || step === 'redo' ? step : 'edit';
            const commands =
              kind === 'undo'
                ? top!.inverse
                : kind === 'redo'
                  ? top!.commands
                  : [{ type: 'session.set' as const, patch: { name: step } }];
            const done = apply(session, commands);
            session = done.session;
            changes.push({
              revision: i,
              kind,
              label: '',
              changeId: String(i),
              commands,
              inverse: done.inverse,
            });
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
