import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import {
  bodyOf,
  editMeant,
  stacksAfter,
  undoStacks,
  type Change,
  type ChangeBody,
  type ChangeHead,
  type UndoStacks,
} from '@core/edits/history';
import { Refusal } from '@core/base/refusal';
import type { Session } from '@core/session/types';
import { say } from '../texts';

/** An edit that the server has not acknowledged yet. */
export interface PendingChange extends ChangeHead, ChangeBody {}

/** A session as one window knows it: what the server has kept, and what is still on its way there. Plain data. */
export interface Ledger {
  readonly kept: Session;
  readonly revision: number;
  /** What can be undone and redone of what is kept. */
  readonly stacks: UndoStacks;
  /** What edits did, by their `changeId`: the last ones, and those that were asked for. */
  readonly bodies: ReadonlyMap<string, ChangeBody>;
  readonly pending: readonly PendingChange[];
  /** `kept` with `pending` applied. */
  readonly document: Session;
}

/** Edits of which a window keeps what they did. */
const MOST_BODIES = 400;

const withBody = (bodies: ReadonlyMap<string, ChangeBody>, { kind, changeId, commands, inverse }: Change) => {
  if (kind !== 'edit') return bodies;
  const next = new Map(bodies).set(changeId, { commands, inverse });
  for (const oldest of next.keys()) {
    if (next.size <= MOST_BODIES) break;
    next.delete(oldest);
  }
  return next;
};

/** @param stacks where they are known further back than the changes that came along */
export const openLedger = (
  kept: Session,
  revision: number,
  history: readonly Change[],
  stacks: UndoStacks = undoStacks(history),
): Ledger => ({
  kept,
  revision,
  stacks,
  bodies: history.reduce(withBody, new Map() as ReadonlyMap<string, ChangeBody>),
  pending: [],
  document: kept,
});

/** What can be undone and redone, edits on their way included. */
export const stacksOf = (ledger: Ledger): UndoStacks => ledger.pending.reduce(stacksAfter, ledger.stacks);

/** What an edit did; null where it has to be asked for. */
export const bodyKnown = (ledger: Ledger, changeId: string): ChangeBody | null =>
  ledger.pending.find((p) => p.changeId === changeId) ?? ledger.bodies.get(changeId) ?? null;

/** The ledger with what an edit did, which was asked for. */
export const withAsked = (ledger: Ledger, changeId: string, { commands, inverse }: ChangeBody): Ledger => ({
  ...ledger,
  bodies: new Map(ledger.bodies).set(changeId, { commands, inverse }),
});

/** An edit to be made: with its commands, or, where it undoes or redoes another, with that one's name. */
export type NewChange = Pick<ChangeHead, 'kind' | 'label' | 'changeId'> & {
  readonly of?: string | null;
  readonly commands?: readonly Command[];
};

/** Adds an edit of this window. @throws Refusal when it breaks a rule; the ledger given is unchanged */
export function edit(ledger: Ledger, change: NewChange): Ledger {
  const { kind, label, changeId } = change;
  let of: string | null = null;
  let commands = change.commands ?? [];
  if (kind !== 'edit') {
    of = editMeant(stacksOf(ledger), kind, change.of ?? null).changeId;
    const body = bodyKnown(ledger, of);
    if (!body) throw new Refusal('order', say('labelDidNotKnownHere', { label }), [of]);
    commands = bodyOf(kind, body).commands;
  }
  const { session, inverse } = apply(ledger.document, commands);
  return {
    ...ledger,
    document: session,
    pending: [...ledger.pending, { changeId, kind, label, of, commands, inverse }],
  };
}

export interface Dropped {
  readonly change: NewChange;
  readonly reason: string;
}
export interface Integrated {
  readonly ledger: Ledger;
  /** Edits of this window that no longer fit on what others did, with the reason. */
  readonly dropped: readonly Dropped[];
  /** Changes that are missing before this one: they have to be fetched. */
  readonly gap: boolean;
}

/** Makes edits again on top of a ledger. */
export function rebase(ledger: Ledger, pending: readonly NewChange[]): Omit<Integrated, 'gap'> {
  const dropped: Dropped[] = [];
  let next = ledger;
  for (const change of pending) {
    try {
      next = edit(next, change);
    } catch (error) {
      dropped.push({ change, reason: (error as Error).message });
    }
  }
  return { ledger: next, dropped };
}

/** Takes in a change that the server has kept, own or other. Edits on their way are applied again on top. */
export function integrate(ledger: Ledger, change: Change): Integrated {
  const waiting = ledger.pending.filter((p) => p.changeId !== change.changeId);
  if (change.revision <= ledger.revision) {
    if (waiting.length === ledger.pending.length) return { ledger, dropped: [], gap: false };
    // Its answer was lost, and the session was taken as it is meanwhile: it is in there already.
    return { ...rebase({ ...ledger, pending: [], document: ledger.kept }, waiting), gap: false };
  }
  if (change.revision > ledger.revision + 1) return { ledger, dropped: [], gap: true };
  const kept = apply(ledger.kept, change.commands).session;
  const base: Ledger = {
    kept,
    revision: change.revision,
    stacks: stacksAfter(ledger.stacks, change),
    bodies: withBody(ledger.bodies, change),
    pending: [],
    document: kept,
  };
  const [head, ...rest] = ledger.pending;
  if (head?.changeId === change.changeId)
    // Own and first: the document stands already where it should.
    return {
      ledger: { ...base, pending: rest, document: rest.length ? ledger.document : kept },
      dropped: [],
      gap: false,
    };
  // What was undone or redone here was meant on what stood here: where that is no longer the last, it is dropped.
  return { ...rebase(base, waiting), gap: false };
}
