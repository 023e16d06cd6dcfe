import { io, type Socket } from 'socket.io-client';
import type { PreampState } from '@core/devices/preamp';
import type { Command } from '@core/edits/commands';
import type { Change, UndoStacks } from '@core/edits/history';
import type { Session } from '@core/session/types';
import { ask, ServerError } from './api';
import type { PendingChange } from './ledger';
import type { Standing, TransportAsk } from './playing';

/** A session as the server has it. */
export interface SessionState extends UndoStacks {
  readonly id: string;
  readonly revision: number;
  readonly document: Session;
  readonly history: readonly Change[];
}

export interface SyncEvents {
  /** The next edit to send, with the revision that it is made on; null when all is kept. */
  next(): { readonly change: PendingChange; readonly revision: number } | null;
  kept(change: Change): void;
  missed(changes: readonly Change[]): void;
  /** The session anew, where too much was missed to be told one by one. */
  reloaded(state: SessionState): void;
  /** The server refuses an edit for good. */
  refused(change: PendingChange, error: ServerError): void;
  state(state: SyncState): void;
  live(from: string, drag: string, commands: readonly Command[] | null): void;
  gone(from: string): void;
  deleted(): void;
  preamp(state: PreampState): void;
  /** Another window plays, or asks this one to; one has joined; the server is reached, or not any more. */
  playing(from: string, standing: Standing): void;
  asked(ask: TransportAsk, at?: number): void;
  joined(): void;
  connected(is: boolean): void;
}

/** `full`: the server answers, and its disk has no room. */
export type SyncState = 'kept' | 'sending' | 'away' | 'full';

/** How often an edit is sent that the server fails at, before it counts as one that can never be kept. */
const MOST_FAILURES = 5;

/** Milliseconds between two words to other windows of where drags stand: a picture. */
const LIVE_MS = 16;
/** Points of lanes that go with every move of a drag at most. */
const MOST_LIVE_POINTS = 5000;
const lanePoints = (commands: readonly Command[]): number =>
  commands.reduce((sum, c) => {
    const lanes = 'patch' in c && 'lanes' in c.patch ? (c.patch.lanes ?? {}) : {};
    return Object.values(lanes).reduce((n, lane) => n + lane.length, sum);
  }, 0);

/** Carries edits to the server one after another, again and again until they are kept, and tells what others do. */
export class SessionSync {
  private readonly socket: Socket;
  private sending = false;
  private closed = false;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private waits = 0;
  private failures = 0;
  /** Drags that have moved since the other windows were told. */
  private readonly drags = new Map<string, readonly Command[]>();
  /** Whose hands others were told of. */
  private readonly hands = new Set<string>();
  private telling: ReturnType<typeof setTimeout> | null = null;

  constructor(
    private readonly session: string,
    private readonly events: SyncEvents,
    private readonly revision: () => number,
  ) {
    this.socket = io({ path: '/socket', transports: ['websocket'] });
    this.socket.on('connect', () => {
      this.socket.emit('join', { session }, () => events.connected(true));
      void this.catchUp();
      // What the preamplifier said while this window was not told.
      ask<{ states: PreampState[] }>('GET', '/preamps').then(
        ({ states }) => states.forEach((s) => this.events.preamp(s)),
        () => {},
      );
      this.flush();
    });
    this.socket.on('commit', (change: Change) => events.kept(change));
    this.socket.on('live', (m: { from: string; drag: string; commands: Command[] | null }) => {
      this.hands.add(m.from);
      events.live(m.from, m.drag, m.commands);
    });
    this.socket.on('gone', (m: { from: string }) => events.gone(m.from));
    this.socket.on('preamp', (state: PreampState) => events.preamp(state));
    this.socket.on('deleted', () => events.deleted());
    this.socket.on('playing', (m: Standing & { from: string }) => events.playing(m.from, m));
    this.socket.on('transport', (m: { ask: TransportAsk; at?: number }) => events.asked(m.ask, m.at));
    this.socket.on('joined', () => events.joined());
    this.socket.on('disconnect', () => {
      // Nobody is there any more to say that these hands have let go.
      for (const from of this.hands) events.gone(from);
      this.hands.clear();
      events.connected(false);
    });
  }

  /** Says something to the other windows, where the server is reached. */
  say(message: 'playing', value: object): void {
    if (this.socket.connected) this.socket.emit(message, value);
  }
  /** Asks for something. @returns what the server answers; within a second, or not */
  async asked(message: 'transport', value: object): Promise<{ readonly ok: boolean }> {
    if (!this.socket.connected) return { ok: false };
    return this.socket
      .timeout(1000)
      .emitWithAck(message, value)
      .catch(() => ({ ok: false })) as Promise<{ readonly ok: boolean }>;
  }

  /** Tells the other windows where a drag stands. A drag of long lanes is told when it ends: it would fill the line. */
  live(drag: string, commands: readonly Command[] | null): void {
    if (commands && lanePoints(commands) > MOST_LIVE_POINTS) return;
    if (commands) {
      this.drags.set(drag, commands);
      this.telling ??= setTimeout(() => this.tellDrags(), LIVE_MS);
      return;
    }
    this.drags.delete(drag);
    if (this.socket.connected) this.socket.emit('live', { drag, commands });
  }
  private tellDrags() {
    this.telling = null;
    if (this.socket.connected)
      for (const [drag, commands] of this.drags) this.socket.emit('live', { drag, commands });
    this.drags.clear();
  }

  /** Fetches what other windows did while this one was not told. */
  async catchUp(): Promise<void> {
    try {
      const { changes, more } = await ask<{ changes: Change[]; more: boolean }>(
        'GET',
        `/sessions/${this.session}/changes?after=${this.revision()}`,
      );
      if (more) await this.reload();
      else if (changes.length) this.events.missed(changes);
    } catch (error) {
      if (error instanceof ServerError && error.status === 404) this.events.deleted();
    }
  }
  private async reload(): Promise<void> {
    const state = await ask<SessionState>('GET', `/sessions/${this.session}/state`);
    if (!this.closed) this.events.reloaded(state);
  }

  /** Sends what is waiting. */
  flush(): void {
    if (this.sending || this.closed) return;
    const next = this.events.next();
    if (!next) return this.events.state('kept');
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.sending = true;
    if (this.waits === 0) this.events.state('sending');
    const { changeId, kind, label, commands, of } = next.change;
    ask<{ change: Change }>('POST', `/sessions/${this.session}/commits`, {
      revision: next.revision,
      changeId,
      kind,
      label,
      // What an undo does is in the history: it is named, and not carried.
      ...(kind === 'edit' ? { commands } : { of }),
    }).then(
      ({ change }) => {
        this.waits = this.failures = 0;
        this.sending = false;
        this.events.kept(change);
        this.flush();
      },
      (error: ServerError) => void this.failed(next.change, error),
    );
  }

  private async failed(change: PendingChange, error: ServerError): Promise<void> {
    if (this.closed) return;
    if (error.status === 409) {
      const { missed = [], revision = 0 } = (error.body?.error ?? {}) as {
        missed?: Change[];
        revision?: number;
      };
      try {
        if (missed.length && missed.at(-1)!.revision >= revision) this.events.missed(missed);
        else await this.reload();
        this.sending = false;
        return this.flush();
      } catch (other) {
        return this.again(other as ServerError);
      }
    }
    // What the server fails at while it is there may be of no use at any time: the rest does not wait for it for ever.
    if (error.status >= 500 && !error.away && ++this.failures < MOST_FAILURES) return this.again(error);
    if (error.away) return this.again(error);
    this.failures = 0;
    this.sending = false;
    this.events.refused(change, error);
    this.flush();
  }

  /** Sends the same again later. */
  private again(error: ServerError): void {
    this.sending = false;
    this.events.state(error.status === 507 ? 'full' : 'away');
    this.timer = setTimeout(() => this.flush(), Math.min(5000, 250 * 2 ** this.waits++));
  }

  close(): void {
    this.closed = true;
    if (this.timer) clearTimeout(this.timer);
    if (this.telling) clearTimeout(this.telling);
    this.socket.close();
  }
}
