import { isAutomated, sessionAt, vcaAutomated } from '../../core/automation/at';
import { apply } from '../../core/edits/apply';
import type { Command } from '../../core/edits/commands';
import { withDrags, type Drags } from '../../core/edits/drags';
import type { Change } from '../../core/edits/history';
import type { OscWorld } from '../../core/osc/address';
import type { Session } from '../../core/session/types';
import type { Live } from '../live/live';
import type { Playing } from '../live/messages';
import { log } from '../log';

const NOBODY: OscWorld['transport'] = { there: false, rolling: false, position: 0, looping: false };
/** Seconds between two places at which automated controls are told while it plays. */
const PICTURE = 0.04;

/** A session as it is kept. */
export interface KeptSession {
  readonly id: string;
  readonly revision: number;
  readonly document: Session;
}

/**
 * The session that controllers steer: the one that a window has opened last. It is followed as a window follows it: what is
 * kept, drags under way, and where the window stands that plays it.
 */
export class Steered {
  id: string | null = null;
  private kept: KeptSession | null = null;
  private loading: Promise<void> | null = null;
  private drags: Drags = new Map();
  private readonly playing = new Map<string, Playing & { readonly at: number }>();
  private memo: { document: Session; drags: Drags; session: Session } | null = null;
  private told = NOBODY;
  private pictured: { of: Session; position: number; session: Session } | null = null;
  readonly unwatch: () => void;

  constructor(
    private readonly live: Live,
    private readonly read: (id: string) => Promise<KeptSession>,
    private readonly latest: () => Promise<string | null>,
  ) {
    this.unwatch = live.watch({
      joined: (session) => this.open(session),
      live: (session, from, drag, commands) => {
        if (session === this.id) this.move(`${from} ${drag}`, commands);
      },
      playing: (session, from, standing) => {
        if (session === this.id) this.playing.set(from, { ...standing, at: Date.now() });
      },
      gone: (session, from) => {
        if (session !== this.id) return;
        this.playing.delete(from);
        this.drags = new Map([...this.drags].filter(([key]) => !key.startsWith(`${from} `)));
      },
      committed: (session, change) => {
        if (session === this.id) this.take(change);
      },
      deleted: (session) => {
        if (session === this.id) this.open(null);
      },
    });
  }

  /** Takes another session up. */
  open(id: string | null): void {
    if (id === this.id && id !== null) return;
    this.id = id;
    this.kept = null;
    this.drags = new Map();
    this.playing.clear();
  }
  /** Has the session at hand. @returns null where there is none */
  async session(): Promise<Session | null> {
    if (!this.kept) {
      this.loading ??= this.load().finally(() => (this.loading = null));
      await this.loading;
    }
    return this.now;
  }
  private async load() {
    const id = this.id ?? (await this.latest());
    if (id === null) return;
    this.id = id;
    const kept = await this.read(id);
    if (this.id !== id) return;
    this.kept = kept;
    // Who plays it says where it stands.
    this.live.greet(id, 'osc');
  }
  private take(change: Change) {
    if (!this.kept || change.revision <= this.kept.revision) return;
    if (change.revision > this.kept.revision + 1) {
      // One was missed: it is read anew.
      this.kept = null;
      return;
    }
    try {
      const document = apply(this.kept.document, change.commands).session;
      this.kept = { ...this.kept, revision: change.revision, document };
    } catch (error) {
      log.warn({ err: error }, 'An edit could not be followed; the session is read anew.');
      this.kept = null;
    }
  }
  /** The session is read anew when it is asked for next. */
  forget(): void {
    this.kept = null;
  }

  /** Moves a drag; null ends it. Of two hands on one thing the one that moved last is heard. */
  move(key: string, commands: readonly Command[] | null): void {
    const next = new Map(this.drags);
    next.delete(key);
    if (commands) next.set(key, commands);
    this.drags = next;
  }

  get revision(): number {
    return this.kept?.revision ?? 0;
  }
  /** What is kept, with every control where its lane has it. */
  get base(): Session | null {
    return this.kept && sessionAt(this.kept.document, this.transport.position);
  }
  /** The same with drags under way. */
  get now(): Session | null {
    if (!this.kept) return null;
    const { document } = this.kept;
    if (this.memo?.document !== document || this.memo.drags !== this.drags)
      this.memo = { document, drags: this.drags, session: withDrags(document, this.drags)! };
    const { session } = this.memo;
    if (!session.strips.some(isAutomated) && !session.vcas.some(vcaAutomated)) return session;
    const { position } = this.transport;
    if (this.pictured?.of !== session || Math.abs(this.pictured.position - position) >= PICTURE)
      this.pictured = { of: session, position, session: sessionAt(session, position) };
    return this.pictured.session;
  }

  /** The window that plays: one that rolls, else the one that spoke last. */
  get player(): string | null {
    const all = [...this.playing];
    return (all.find(([, p]) => p.rolling) ?? all.at(-1))?.[0] ?? null;
  }
  left(player: string): void {
    this.playing.delete(player);
  }
  /** Where it stands: the same object as long as nothing of it has changed. */
  get transport(): OscWorld['transport'] {
    const from = this.player;
    const p = from === null ? undefined : this.playing.get(from);
    if (!p) return (this.told = NOBODY);
    const gone = p.rolling ? (Date.now() - p.at) / 1000 : 0;
    // While it loops it does not run on past the loop's end.
    const end = p.looping && p.loop && p.position < p.loop.end ? p.loop : null;
    const ahead = p.position + gone;
    const position =
      end && ahead >= end.end
        ? end.start + ((ahead - end.start) % Math.max(0.001, end.end - end.start))
        : ahead;
    const { told } = this;
    if (
      told.there &&
      told.rolling === p.rolling &&
      told.looping === p.looping &&
      Math.abs(told.position - position) < PICTURE &&
      (p.rolling || told.position === position)
    )
      return told;
    return (this.told = { there: true, rolling: p.rolling, position, looping: p.looping });
  }
}
