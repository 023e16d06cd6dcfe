import { randomUUID } from 'node:crypto';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { newSession } from '../../core/session/defaults';
import type { Change, UndoStacks } from '../../core/session/history';
import { Refusal } from '../../core/session/refusal';
import type { Session } from '../../core/session/types';
import { fieldSchemas } from '../../core/formats/sessionSchema';
import { hashOf } from '../audio/stemStore';
import { SessionRow, StemRow } from '../database/models';
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

async function rowOf(id: string): Promise<SessionRow> {
  const row = isUuid(id) ? await SessionRow.findByPk(id) : null;
  if (!row) throw noSession(id);
  return row;
}
/** @throws Refusal `unknown` where there is no such session */
export async function checkSessionThere(id: string): Promise<void> {
  if (!isUuid(id) || (await SessionRow.count({ where: { id } })) === 0) throw noSession(id);
}

/** Finds a session by id or, where just one bears it, by name. */
export async function findSession(idOrName: string): Promise<SessionRow> {
  if (isUuid(idOrName)) return rowOf(idOrName);
  // PostgreSQL takes no text with a zero in it: no session bears such a name.
  const rows = idOrName.includes('\0') ? [] : await SessionRow.findAll({ where: { name: idOrName } });
  if (rows.length > 1)
    throw new Refusal(
      'duplicate',
      `${rows.length} sessions are named \`${idOrName}\`: name one by its id: ${rows.map((r) => r.id).join(', ')}.`,
    );
  if (!rows[0]) throw new Refusal('unknown', `There is no session \`${idOrName}\`.`, [idOrName]);
  return rows[0];
}

export async function createSession(name: string, sampleRate: number): Promise<SessionRow> {
  const { error } = fieldSchemas.session.name.validate(name);
  if (error) throw new Refusal('format', `The name is not accepted: ${error.message}.`);
  return SessionRow.create({ id: randomUUID(), name, document: newSession(name, sampleRate) });
}

/** The session as it is at one moment. @throws Refusal `unknown` */
export async function sessionState(sequelize: Sequelize, id: string): Promise<SessionState> {
  if (!isUuid(id)) throw noSession(id);
  return sequelize.transaction({ isolationLevel: 'REPEATABLE READ' as never }, async (transaction) => {
    const row = await SessionRow.findByPk(id, { transaction });
    if (!row) throw noSession(id);
    return {
      id: row.id,
      revision: row.revision,
      document: row.document,
      history: await recentChanges(sequelize, id, transaction),
      ...(await stacksOf(sequelize, id, transaction)),
    };
  });
}

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
export async function stemsOfSession(
  session: Session,
): Promise<Record<string, { channels: number; frames: number; overview: string }>> {
  const hashes = [
    ...new Set(
      session.strips.map((s) => (s.stem ? hashOf(s.stem) : null)).filter((h): h is string => h !== null),
    ),
  ];
  const rows = await StemRow.findAll({ where: { sha256: { [Op.in]: hashes } } });
  return Object.fromEntries(
    rows.map((r) => [
      `sha256:${r.sha256.trim()}`,
      { channels: r.channels, frames: r.frames, overview: r.overview.toString('base64') },
    ]),
  );
}
