import { apply } from '../../core/session/commands/apply';
import type { Command } from '../../core/session/commands/types';
import { undoStacks, type Change, type ChangeKind } from '../../core/session/history';
import type { Session } from '../../core/session/types';

/** An edit that the server has not acknowledged yet. */
export interface PendingChange {
  readonly changeId: string;
  readonly kind: ChangeKind;
  readonly label: string;
  readonly commands: readonly Command[];
  readonly inverse: readonly Command[];
}

/** A session as one window knows it: what the server has kept, and what is still on its way there. Plain data. */
export interface Ledger {
  readonly kept: Session;
  readonly revision: number;
  readonly history: readonly Change[];
  readonly pending: readonly PendingChange[];
  /** `kept` with `pending` applied. */
  readonly document: Session;
}

export const openLedger = (kept: Session, revision: number, history: readonly Change[]): Ledger => ({
  kept,
  revision,
  history,
  pending: [],
  document: kept,
});

/** Adds an edit of this window. @throws Refusal when it breaks a rule; the ledger given is unchanged */
export function edit(ledger: Ledger, change: Omit<PendingChange, 'inverse'>): Ledger {
  const { session, inverse } = apply(ledger.document, change.commands);
  return { ...ledger, document: session, pending: [...ledger.pending, { ...change, inverse }] };
}

/** What can be undone and redone, edits on their way included. */
export const stacksOf = (ledger: Ledger) =>
  undoStacks([
    ...ledger.history,
    ...ledger.pending.map((p, i) => ({ ...p, revision: ledger.revision + i + 1 })),
  ]);

export interface Integrated {
  readonly ledger: Ledger;
  /** Edits of this window that no longer fit on what others did, by label and reason. */
  readonly dropped: readonly { readonly label: string; readonly reason: string }[];
  /** Changes that are missing before this one: they have to be fetched. */
  readonly gap: boolean;
}

/** Takes in a change that the server has kept, own or other. Edits on their way are applied again on top. */
export function integrate(ledger: Ledger, change: Change): Integrated {
  if (change.revision <= ledger.revision) return { ledger, dropped: [], gap: false };
  if (change.revision > ledger.revision + 1) return { ledger, dropped: [], gap: true };
  const kept = apply(ledger.kept, change.commands).session;
  const base = { kept, revision: change.revision, history: [...ledger.history, change].slice(-400) };
  const [head, ...rest] = ledger.pending;
  if (head?.changeId === change.changeId)
    // Own and first: the document stands already where it should.
    return {
      ledger: { ...base, pending: rest, document: rest.length ? ledger.document : kept },
      dropped: [],
      gap: false,
    };
  const dropped: { label: string; reason: string }[] = [];
  let next: Ledger = { ...base, pending: [], document: kept };
  for (const p of ledger.pending) {
    if (p.changeId === change.changeId) continue;
    if (p.kind !== 'edit') {
      dropped.push({ label: p.label, reason: 'the session was changed in another window meanwhile' });
      continue;
    }
    try {
      next = edit(next, p);
    } catch (error) {
      dropped.push({ label: p.label, reason: (error as Error).message });
    }
  }
  return { ledger: next, dropped, gap: false };
}
