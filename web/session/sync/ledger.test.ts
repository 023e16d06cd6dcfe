import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import { newSession, newStrip } from '@core/session/defaults';
import type { Change } from '@core/edits/history';
import type { Session } from '@core/session/types';
import { edit, integrate, openLedger, rebase, stacksOf, withAsked, type Ledger } from './ledger';

const base = newSession('Ledger');
const session: Session = {
  ...base,
  strips: [
    ...['a', 'b'].map((id) => newStrip({ id, kind: 'source', name: id, out: { to: 'main', on: true } })),
    ...base.strips,
  ],
};
const level = (id: string, faderDb: number): Command => ({ type: 'strip.set', id, patch: { faderDb } });
let next = 0;
const mine = (commands: readonly Command[]) => ({
  changeId: `c${next++}`,
  kind: 'edit' as const,
  label: 'mine',
  of: null,
  commands,
});
const takeBack = (l: Ledger) => ({
  changeId: `c${next++}`,
  kind: 'undo' as const,
  label: 'mine',
  of: stacksOf(l).undo.at(-1)!.changeId,
});

/** A server that keeps what fits on its revision. */
class Server {
  document = session;
  changes: Change[] = [];
  keep(change: Omit<Change, 'revision' | 'inverse'>): Change {
    const { session: after, inverse } = apply(this.document, change.commands);
    this.document = after;
    const kept = { ...change, revision: this.changes.length + 1, inverse };
    this.changes.push(kept);
    return kept;
  }
}
const fader = (l: Ledger, id: string) => l.document.strips.find((s) => s.id === id)!.faderDb;

describe('the ledger of a window', () => {
  it('shows an edit at once, and keeps it when the server has', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    expect([fader(l, 'a'), l.revision, l.pending.length]).toEqual([-3, 0, 1]);
    l = integrate(l, server.keep(l.pending[0]!)).ledger;
    expect([fader(l, 'a'), l.revision, l.pending.length]).toEqual([-3, 1, 0]);
    expect(l.document).toEqual(server.document);
  });

  it('applies its edits again on top of what another window did meanwhile', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    l = integrate(l, server.keep({ ...mine([level('b', -9)]), label: 'theirs' })).ledger;
    expect([fader(l, 'a'), fader(l, 'b'), l.pending.length]).toEqual([-3, -9, 1]);
    // What is undone now is what was there before on this document.
    expect(stacksOf(l).undo.map((c) => c.label)).toEqual(['theirs', 'mine']);
  });

  it('drops an edit that no longer fits, and says why', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    l = edit(l, mine([level('b', -3)]));
    const result = integrate(l, server.keep(mine([{ type: 'strip.remove', id: 'a' }])));
    expect(result.dropped).toEqual([
      { change: expect.objectContaining({ label: 'mine' }), reason: expect.stringContaining('`a`') },
    ]);
    expect(result.ledger.pending).toHaveLength(1);
    expect(fader(result.ledger, 'b')).toBe(-3);
  });

  it('does not undo on top of what it has not seen', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    l = integrate(l, server.keep(l.pending[0]!)).ledger;
    l = edit(l, takeBack(l));
    expect(fader(l, 'a')).toBe(0);
    const result = integrate(l, server.keep(mine([level('a', -20)])));
    expect(result.dropped).toHaveLength(1);
    expect(fader(result.ledger, 'a')).toBe(-20);
  });

  it('takes back what is still on its way, whatever another window does meanwhile', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    l = edit(l, takeBack(l));
    const result = integrate(l, server.keep(mine([level('b', -20)])));
    expect(result.dropped).toEqual([]);
    expect([fader(result.ledger, 'a'), fader(result.ledger, 'b')]).toEqual([0, -20]);
    expect(result.ledger.pending.map((p) => p.kind)).toEqual(['edit', 'undo']);
  });

  it('does not do twice what was kept without its word, when the session was taken as it is', () => {
    const server = new Server();
    let l = edit(openLedger(session, 0, []), mine([level('a', -3)]));
    l = edit(l, mine([level('b', -7)]));
    const lost = server.keep(l.pending[0]!);
    server.keep(mine([level('a', -30)]));
    // Taken anew, with what waits on top; then the answer to the same edit comes after all.
    l = rebase(openLedger(server.document, 2, server.changes), l.pending).ledger;
    expect(fader(l, 'a')).toBe(-3);
    l = integrate(l, lost).ledger;
    expect([fader(l, 'a'), fader(l, 'b'), l.pending.length]).toEqual([-30, -7, 1]);
  });

  it('does not undo what it does not know, and does when it has asked', () => {
    const server = new Server();
    const old = server.keep(mine([level('a', -3)]));
    const l = openLedger(server.document, 1, [], { undo: [old], redo: [] });
    expect(() => edit(l, takeBack(l))).toThrow(/is not known here/);
    expect(fader(edit(withAsked(l, old.changeId, old), takeBack(l)), 'a')).toBe(0);
  });

  it('sees a gap, and takes nothing twice', () => {
    const server = new Server();
    const [one, two] = [server.keep(mine([level('a', -1)])), server.keep(mine([level('a', -2)]))];
    const l = openLedger(session, 0, []);
    expect(integrate(l, two).gap).toBe(true);
    const caught = integrate(integrate(l, one).ledger, two).ledger;
    expect(fader(caught, 'a')).toBe(-2);
    expect(integrate(caught, one).ledger).toBe(caught);
  });

  it('of every window ends at the same document, whatever the order of sending', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.nat(2), fc.constantFrom('a', 'b'), fc.integer({ min: -40, max: 6 }), fc.boolean()),
          { maxLength: 30 },
        ),
        (steps) => {
          const server = new Server();
          const windows = [0, 1, 2].map(() => ({ ledger: openLedger(session, 0, []) }));
          const catchUp = (w: { ledger: Ledger }) => {
            for (const c of server.changes.slice(w.ledger.revision)) w.ledger = integrate(w.ledger, c).ledger;
          };
          const send = (w: { ledger: Ledger }) => {
            catchUp(w);
            const head = w.ledger.pending[0];
            if (head) w.ledger = integrate(w.ledger, server.keep(head)).ledger;
          };
          for (const [n, id, db, sends] of steps) {
            const w = windows[n]!;
            w.ledger = edit(w.ledger, mine([level(id, db)]));
            if (sends) send(w);
          }
          for (let round = 0; round < 40; round++) windows.forEach(send);
          windows.forEach(catchUp);
          for (const w of windows) {
            expect(w.ledger.pending).toEqual([]);
            expect(w.ledger.document).toEqual(server.document);
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
