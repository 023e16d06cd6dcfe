import type { Sequelize } from 'sequelize';
import { findSpans } from './audio/spans';
import { giveBackRoom, sweepStems } from './audio/sweep';
import { bulk } from './database/database';
import { compactHistories } from './sessions/compact';
import { log } from './log';

/** Minutes between two rounds. */
const EVERY = 30;
/** Edits after which the sessions' dead rows are cleared: each edit writes its session's row anew, and some its document. */
const EDITS = 500;
/** Milliseconds after which nobody is thought to play. */
const QUIET = 60_000;

export interface Maintenance {
  /** An edit was kept. */
  edited(): void;
  /** Audio was asked for. */
  played(): void;
  /** Sweeps, compacts and gives room back, now. */
  round(): Promise<void>;
  close(): Promise<void>;
}

/** Keeps the database from growing without end, beside whatever else is done. Nothing waits for it. */
export function maintain(sequelize: Sequelize): Maintenance {
  let edits = 0;
  let lastPlayed = 0;
  let closed = false;
  let busy: Promise<void> = Promise.resolve();
  const quietly = (what: () => Promise<unknown>) =>
    (busy = busy.then(async () => {
      if (closed) return;
      try {
        await what();
      } catch (error) {
        // The next round tries again.
        if (!closed) log.warn({ err: error }, 'The database could not be tidied.');
      }
    }));
  const round = () =>
    quietly(async () => {
      const changes = await compactHistories(sequelize);
      const stems = await sweepStems(sequelize);
      if (changes) await bulk(sequelize).query('VACUUM session_changes');
      await bulk(sequelize).query('VACUUM sessions, session_snapshots');
      if (stems || Date.now() - lastPlayed > QUIET)
        await giveBackRoom(sequelize, Date.now() - lastPlayed > QUIET);
    });
  // What an earlier program stored without is looked at once, when nothing else is waited for.
  void quietly(() => findSpans(sequelize));
  const timer = setInterval(() => void round(), EVERY * 60_000).unref();
  return {
    edited() {
      if (++edits % EDITS === 0)
        void quietly(() => bulk(sequelize).query('VACUUM sessions, session_snapshots'));
    },
    played() {
      lastPlayed = Date.now();
    },
    round,
    async close() {
      closed = true;
      clearInterval(timer);
      await busy;
    },
  };
}
