import { randomUUID } from 'node:crypto';
import { Op, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { newSession } from '../../core/session/defaults';
import type { Change, UndoStacks } from '../../core/edits/history';
import { Refusal } from '../../core/base/refusal';
import type { Session } from '../../core/session/types';
import { fieldSchemas } from '../../core/session/fields/fieldSchemas';
import { hashOf, stemAddress, stemInfo } from '../audio/stemStore';
import { SessionRow, StemRow } from '../database/models';
import { documentsOf, documentText, headOf, insertSession } from './documents';
import { recentChanges, stacksOf } from './history';

export interface SessionSummary {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly strips: number;
  readonly sampleRate: number;
  readonly openedAt: string;
}

/** A session as a window needs it: what it is, what was done lately, and all that can be undone and redone. */
export interface SessionState extends UndoStacks {
  readonly id: string;
  readonly revision: number;
  readonly document: Session;
  readonly history: readonly Change[];
}

/** The sessions, last opened first. Their documents stay in the database: they may be large. */
export async function listSessions(sequelize: Sequelize): Promise<readonly SessionSummary[]> {
  return (await sequelize.query(
    `SELECT id, name, revision, strip_count AS strips, sample_rate AS "sampleRate", opened_at AS "openedAt"
     FROM sessions ORDER BY opened_at DESC, created_at DESC`,
    { type: QueryTypes.SELECT },
  )) as SessionSummary[];
}

/** How many strips a session has. */
export const stripsIn = async (sequelize: Sequelize, id: string): Promise<number> =>
  (
    (await sequelize.query(`SELECT strip_count AS n FROM sessions WHERE id = $1`, {
      bind: [id],
      type: QueryTypes.SELECT,
    })) as { n: number }[]
  )[0]!.n;

export const isUuid = (id: string) => /^[0-9a-f]{8}-([0-9a-f]{4}-){3}[0-9a-f]{12}$/i.test(id);

export const noSession = (id: string) =>
  new Refusal('unknown', `There is no session \`${id}\`. It may have been deleted.`, [id]);

/** @throws Refusal `unknown` where there is no such session */
export async function checkSessionThere(id: string): Promise<void> {
  if (!isUuid(id) || (await SessionRow.count({ where: { id } })) === 0) throw noSession(id);
}

/** A session with its document. */
export interface FoundSession {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly document: Session;
}
/** Finds a session by id or, where just one bears it, by name. @throws Refusal `unknown`, or `duplicate` */
export async function findSession(sequelize: Sequelize, idOrName: string): Promise<FoundSession> {
  const id = isUuid(idOrName) ? idOrName : await idNamed(idOrName);
  const { revision, document } = await readSession(sequelize, id);
  return { id, name: document.name, revision, document };
}
async function idNamed(name: string): Promise<string> {
  // PostgreSQL takes no text with a zero in it: no session bears such a name.
  const rows = name.includes('\0') ? [] : await SessionRow.findAll({ where: { name } });
  if (rows.length > 1)
    throw new Refusal(
      'duplicate',
      `${rows.length} sessions are named \`${name}\`: name one by its id: ${rows.map((r) => r.id).join(', ')}.`,
    );
  if (!rows[0]) throw new Refusal('unknown', `There is no session \`${name}\`.`, [name]);
  return rows[0].id;
}

/** A session's document at one moment, and what else is asked for at the same. @throws Refusal `unknown` */
async function readSession<T extends object>(
  sequelize: Sequelize,
  id: string,
  more?: (transaction: Transaction) => Promise<T>,
): Promise<{ readonly revision: number; readonly document: Session } & T> {
  if (!isUuid(id)) throw noSession(id);
  return sequelize.transaction({ isolationLevel: 'REPEATABLE READ' as never }, async (transaction) => {
    const head = await headOf(sequelize, id, transaction);
    if (!head) throw noSession(id);
    const { revision, stamp } = head;
    const document = await documentsOf(sequelize).at(id, revision, stamp, transaction);
    return { revision, document, ...((await more?.(transaction)) as T) };
  });
}

export async function createSession(
  sequelize: Sequelize,
  name: string,
  sampleRate: number,
): Promise<{ readonly id: string; readonly name: string }> {
  const { error } = fieldSchemas.session.name.validate(name);
  if (error) throw new Refusal('format', `The name is not accepted: ${error.message}.`);
  const id = randomUUID();
  const session = newSession(name, sampleRate);
  const facts = { name, strips: session.strips.length, sampleRate };
  await sequelize.transaction((transaction) =>
    insertSession(sequelize, id, facts, JSON.stringify(session), transaction),
  );
  return { id, name };
}

/** The session as it is at one moment. @throws Refusal `unknown` */
export async function sessionState(sequelize: Sequelize, id: string): Promise<SessionState> {
  const state = await readSession(sequelize, id, async (transaction) => ({
    history: await recentChanges(sequelize, id, transaction),
    ...(await stacksOf(sequelize, id, transaction)),
  }));
  return { id, ...state };
}

/** A session's state as JSON, with what else is given. */
export const stateText = ({ document, ...state }: SessionState, more: object = {}): string =>
  `${JSON.stringify({ ...state, ...more }).slice(0, -1)},"document":${documentText(document)}}`;

export async function openSession(sequelize: Sequelize, id: string): Promise<SessionState> {
  const state = await sessionState(sequelize, id);
  await SessionRow.update({ openedAt: new Date() }, { where: { id }, silent: true });
  return state;
}

export async function deleteSession(id: string): Promise<void> {
  await checkSessionThere(id);
  await SessionRow.destroy({ where: { id } });
}

/** Facts of the stems that a session names. */
export async function stemsOfSession(session: Session): Promise<Record<string, ReturnType<typeof stemInfo>>> {
  const hashes = [
    ...new Set(
      session.strips.map((s) => (s.stem ? hashOf(s.stem) : null)).filter((h): h is string => h !== null),
    ),
  ];
  const rows = await StemRow.findAll({ where: { sha256: { [Op.in]: hashes } } });
  return Object.fromEntries(rows.map((r) => [stemAddress(r.sha256.trim()), stemInfo(r)]));
}
