import { LRUCache } from 'lru-cache';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { apply } from '../../core/edits/apply';
import { migrate } from '../../core/session/migrate';
import type { Session, Strip } from '../../core/session/types';
import { bulk } from '../database/database';
import { log } from '../log';
import { changesBetween } from './history';

/** Edits after which a document is written anew. To open a session, no more of them have to be done again. */
export const SNAPSHOT_EVERY = 100;
/** Documents that are held in memory, and bytes of them together. */
const MOST_HELD = 40;
const MOST_BYTES = 128 * 2 ** 20;

/** A document as it was at a revision. */
export interface Kept {
  readonly document: Session;
  readonly revision: number;
  /** When the session was changed last, as the database writes it: another program may have put another past in its place. */
  readonly stamp: string;
}

interface Written {
  readonly text: string;
  readonly bytes: number;
}
const written = new WeakMap<object, Written>();
/** A strip as JSON; what is the same object as before is not written anew. */
function stripText(strip: Strip): Written {
  let known = written.get(strip);
  if (!known) {
    const text = JSON.stringify(strip);
    known = { text, bytes: Buffer.byteLength(text) };
    written.set(strip, known);
  }
  return known;
}
/** A document as JSON: as JSON.stringify writes it. */
export const documentText = (session: Session): string =>
  `{${Object.entries(session)
    .map(([key, value]) => {
      const text =
        key === 'strips' ? `[${session.strips.map((s) => stripText(s).text).join()}]` : JSON.stringify(value);
      return `${JSON.stringify(key)}:${text}`;
    })
    .join()}}`;
/** Bytes of that. */
export const bytesOf = (session: Session): number =>
  Buffer.byteLength(JSON.stringify({ ...session, strips: [] })) +
  session.strips.reduce((n, s) => n + stripText(s).bytes, Math.max(0, session.strips.length - 1));

/** Documents that were read or written lately, and the writing of those that have gone far from their snapshots. */
class Documents {
  private readonly held = new LRUCache<string, Kept>({
    max: MOST_HELD,
    maxSize: MOST_BYTES,
    sizeCalculation: ({ document }) => Math.max(1, bytesOf(document)),
  });
  /** Revisions of snapshots, as far as they are known. */
  private readonly written = new Map<string, number>();
  private writing: Promise<unknown> = Promise.resolve();

  constructor(private readonly sequelize: Sequelize) {}

  /**
   * The document of a session at its revision.
   * @param stamp of the session's row, read in the same transaction
   */
  async at(id: string, revision: number, stamp: string, transaction?: Transaction): Promise<Session> {
    const known = this.held.get(id);
    if (known?.revision === revision && known.stamp === stamp) return known.document;
    const [snapshot] = (await this.sequelize.query(
      'SELECT revision, document FROM session_snapshots WHERE session_id = $1 AND revision <= $2',
      { bind: [id, revision], type: QueryTypes.SELECT, transaction },
    )) as { revision: number; document: string }[];
    if (!snapshot) throw new Error(`The document of session ${id} is missing from the database.`);
    this.written.set(id, snapshot.revision);
    let document = migrate(JSON.parse(snapshot.document) as Session);
    if (snapshot.revision < revision) {
      const changes = await changesBetween(this.sequelize, id, snapshot.revision, revision, transaction);
      if (changes.length !== revision - snapshot.revision)
        throw new Error(
          `Changes of session ${id} after revision ${snapshot.revision} are missing from the database.`,
        );
      document = migrate(
        apply(
          document,
          changes.flatMap((c) => c.commands),
        ).session,
      );
    }
    this.held.set(id, { document, revision, stamp });
    return document;
  }

  /** Takes note of an edit that was kept; now and then its document is written, which nobody waits for. */
  kept(id: string, kept: Kept): void {
    this.held.set(id, kept);
    if (kept.revision - (this.written.get(id) ?? 0) < SNAPSHOT_EVERY) return;
    this.written.set(id, kept.revision);
    this.writing = this.writing
      .then(() => this.write(id, kept))
      .catch((err) => {
        // Nothing is lost: the next edit tries again.
        this.written.delete(id);
        log.warn({ err }, 'A document could not be written.');
      });
  }
  private write(id: string, { document, revision }: Omit<Kept, 'stamp'>) {
    return bulk(this.sequelize).query(
      `UPDATE session_snapshots SET document = $1, revision = $2 WHERE session_id = $3 AND revision < $2`,
      { bind: [documentText(document), revision, id] },
    );
  }
  /** Waits until what is being written is written. */
  settled(): Promise<unknown> {
    return this.writing;
  }

  /** Writes the document of a session as it is. */
  async keep(id: string): Promise<void> {
    const head = await headOf(this.sequelize, id);
    if (!head) return;
    const { revision, stamp } = head;
    await this.write(id, { revision, document: await this.at(id, revision, stamp) });
    this.written.set(id, revision);
  }
  /** Writes those of all sessions. */
  async keepAll(): Promise<void> {
    const rows = (await this.sequelize.query('SELECT id FROM sessions', { type: QueryTypes.SELECT })) as {
      id: string;
    }[];
    for (const { id } of rows) await this.keep(id);
  }
}

const known = new WeakMap<Sequelize, Documents>();
/** The documents of a database. */
export function documentsOf(sequelize: Sequelize): Documents {
  let documents = known.get(sequelize);
  if (!documents) known.set(sequelize, (documents = new Documents(sequelize)));
  return documents;
}

/** What a session's row says of its document. */
export interface Head {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly stamp: string;
}
/** @returns undefined where there is no such session */
export async function headOf(
  sequelize: Sequelize,
  id: string,
  transaction?: Transaction,
): Promise<Head | undefined> {
  const [head] = (await sequelize.query(
    'SELECT id, name, revision, updated_at::text AS stamp FROM sessions WHERE id = $1',
    { bind: [id], type: QueryTypes.SELECT, transaction },
  )) as Head[];
  return head;
}
/** The same, with other edits waiting until the transaction ends, and whether it has a change of a name. */
export async function lockedHeadOf(
  sequelize: Sequelize,
  id: string,
  changeId: string,
  transaction: Transaction,
): Promise<(Head & { readonly known: boolean }) | undefined> {
  const [head] = (await sequelize.query(
    `SELECT id, name, revision, updated_at::text AS stamp,
       EXISTS (SELECT 1 FROM session_changes c WHERE c.session_id = s.id AND c.change_id = $2) AS known
     FROM sessions s WHERE id = $1 FOR UPDATE OF s`,
    { bind: [id, changeId], type: QueryTypes.SELECT, transaction },
  )) as (Head & { known: boolean })[];
  return head;
}

/** A new session's row and its document. @param text the document as JSON, where it is at hand */
export async function insertSession(
  sequelize: Sequelize,
  id: string,
  facts: { readonly name: string; readonly strips: number; readonly sampleRate: number },
  text: string,
  transaction: Transaction,
): Promise<void> {
  await sequelize.query('INSERT INTO sessions (id, name, strip_count, sample_rate) VALUES ($1, $2, $3, $4)', {
    bind: [id, facts.name, facts.strips, facts.sampleRate],
    transaction,
  });
  await sequelize.query('INSERT INTO session_snapshots (session_id, revision, document) VALUES ($1, 0, $2)', {
    bind: [id, text],
    transaction,
  });
}
