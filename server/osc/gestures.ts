import { randomUUID } from 'node:crypto';
import { Refusal } from '../../core/base/refusal';
import { keepable } from '../../core/base/text';
import { apply } from '../../core/edits/apply';
import type { Command } from '../../core/edits/commands';
import type { OscDone } from '../../core/osc/address';
import { withLinks } from '../../core/operations/together';
import type { Session } from '../../core/session/types';
import { Stale } from '../sessions/commit';

/** Milliseconds for which a control has to rest before its move is kept. */
export const SETTLE_MS = 400;
/** Times that a move is kept on another revision than it was made on, when others edit meanwhile. */
const MOST_TRIES = 20;
/** Milliseconds after which a move is tried again that the database could not take, and how often. */
const AGAIN_MS = 1000;
const MOST_AGAIN = 30;
/** Letters of a label. */
const MOST_LABEL = 300;

/** A move of one control, and how it is made anew where the session has moved on meanwhile. */
export type Move = Extract<OscDone, { readonly type: 'edit' }> & {
  /** @throws Refusal where what it moved is gone */
  anew(session: Session): readonly Command[];
};
interface Gesture {
  readonly id: string;
  readonly client: string;
  /** The session that it was begun in: another may be steered when it is kept. */
  readonly session: string;
  readonly controls: Map<string, Move>;
  /** When it moved last. */
  at: number;
  dirty: boolean;
  landing: boolean;
}

export interface GestureHost {
  /** The session that is steered now. */
  session(): string;
  /** Shows where a gesture stands, here and in every window; null ends it. */
  live(session: string, gesture: string, commands: readonly Command[] | null): void;
  /** What links make of an edit of what is steered now. */
  linked(commands: readonly Command[]): readonly Command[];
  /** A session as it is kept, with its controls where their lanes have them. @throws Refusal where it is gone */
  base(session: string): Promise<{ readonly document: Session; readonly revision: number }>;
  keep(
    session: string,
    request: {
      readonly revision: number;
      readonly changeId: string;
      readonly label: string;
      readonly commands: readonly Command[];
    },
  ): Promise<unknown>;
  /** What is known of a session is not what is kept: it is read anew. */
  stale(session: string): void;
  refused(client: string, error: unknown): void;
}

/**
 * Moves of controllers that cannot tell when a hand lets go: heard as they come, and kept as one edit when they have rested, as a
 * drag is. What comes in one bundle is one move.
 */
export class Gestures {
  private readonly all = new Set<Gesture>();
  private readonly byControl = new Map<string, Gesture>();
  private landing: Promise<void> = Promise.resolve();
  private together: { client: string; gesture: Gesture } | null = null;

  constructor(
    private readonly host: GestureHost,
    private readonly now: () => number = Date.now,
  ) {}

  get open(): number {
    return this.all.size;
  }
  /** The controls that a controller is moving. */
  movedBy(client: string): ReadonlySet<string> {
    return new Set(
      [...this.all].filter((g) => g.client === client && !g.landing).flatMap((g) => [...g.controls.keys()]),
    );
  }
  /** What comes next belongs to no move that has begun. */
  apart(): void {
    this.together = null;
  }

  move(client: string, edit: Move): void {
    const key = `${client} ${edit.key}`;
    const here = (g: Gesture | undefined) => (g?.session === this.host.session() ? g : undefined);
    let gesture = here(this.byControl.get(key));
    if (!gesture && this.together?.client === client) gesture = here(this.together.gesture);
    if (!gesture) {
      gesture = {
        id: randomUUID(),
        client,
        session: this.host.session(),
        controls: new Map(),
        at: 0,
        dirty: false,
        landing: false,
      };
      this.all.add(gesture);
    }
    this.together = { client, gesture };
    this.byControl.set(key, gesture);
    // What moved last is heard: it stands last.
    gesture.controls.delete(edit.key);
    gesture.controls.set(edit.key, edit);
    gesture.at = this.now();
    gesture.dirty = true;
  }
  private liveOf(g: Gesture): readonly Command[] {
    return this.host.linked([...g.controls.values()].flatMap((e) => e.commands));
  }
  /** The same made anew on what is kept: what others did to the same insert meanwhile stays. */
  private keptOf(g: Gesture, document: Session): readonly Command[] {
    let session = document;
    const all: Command[] = [];
    for (const move of g.controls.values()) {
      const commands = move.anew(session);
      all.push(...commands);
      session = apply(session, commands).session;
    }
    return withLinks(document, all);
  }

  /** Has what moved be heard. */
  tell(): void {
    for (const g of this.all)
      if (g.dirty) {
        g.dirty = false;
        try {
          this.host.live(g.session, g.id, this.liveOf(g));
        } catch (error) {
          // What it moved is gone.
          this.drop(g, error);
        }
      }
  }
  private drop(g: Gesture, error: unknown) {
    this.end(g);
    this.host.live(g.session, g.id, null);
    this.host.refused(g.client, error);
  }
  private end(g: Gesture) {
    this.all.delete(g);
    this.free(g);
  }
  /** What the same hand does next is another move. */
  private free(g: Gesture) {
    for (const [key, one] of this.byControl) if (one === g) this.byControl.delete(key);
  }

  /** Keeps what has rested; all of it where asked for. */
  settle(all = false): Promise<void> {
    const now = this.now();
    const due = [...this.all].filter((g) => !g.landing && (all || now - g.at >= SETTLE_MS));
    for (const g of due) {
      g.landing = true;
      this.free(g);
    }
    // One after another: each is kept on what the one before has made.
    for (const g of due) this.landing = this.landing.then(() => this.land(g));
    return this.landing;
  }
  private async land(g: Gesture) {
    const edits = [...g.controls.values()];
    const more = edits.length > 1 ? ` and ${edits.length - 1} more` : '';
    const label = keepable(`${edits[0]!.label}${more}`, MOST_LABEL);
    const changeId = randomUUID();
    let away = 0;
    for (let n = 0; n < MOST_TRIES;) {
      try {
        const { document, revision } = await this.host.base(g.session);
        const commands = this.keptOf(g, document);
        await this.host.keep(g.session, { revision, changeId, label, commands });
        break;
      } catch (error) {
        if (error instanceof Stale) {
          n++;
          this.host.stale(g.session);
        } else if (error instanceof Refusal || ++away > MOST_AGAIN) return this.drop(g, error);
        else await new Promise((done) => setTimeout(done, AGAIN_MS));
      }
    }
    this.end(g);
    this.host.live(g.session, g.id, null);
  }
}
