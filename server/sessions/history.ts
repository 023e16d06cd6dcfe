import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import {
  undoStacks,
  type Change,
  type ChangeBody,
  type ChangeHead,
  type UndoStacks,
} from '../../core/edits/history';
import type { Command } from '../../core/edits/commands';
import { usesOf, type Use } from '../../core/surface/use/uses';
import { ChangeRow } from '../database/models';

/** How many changes a window gets with a session at most, and how many bytes of them. */
const RECENT = 200;
const RECENT_BYTES = 1 << 19;
/** Changes that are told at once to a window that missed them; it loads the session anew where there are more. */
export const MOST_MISSED = 1000;

/** What a change does: its own, or that of the edit that it takes back or does again. */
const CHANGES = `
  SELECT c.revision, c.kind, c.label, c.change_id AS "changeId", c.of_change AS of,
         COALESCE(c.commands, CASE c.kind WHEN 'undo' THEN t.inverse ELSE t.commands END) AS commands,
         COALESCE(c.inverse, CASE c.kind WHEN 'undo' THEN t.commands ELSE t.inverse END) AS inverse
  FROM session_changes c
  LEFT JOIN session_changes t
    ON c.commands IS NULL AND t.session_id = c.session_id AND t.change_id = c.of_change`;

const select = async <T>(
  sequelize: Sequelize,
  sql: string,
  bind: readonly unknown[],
  transaction?: Transaction,
) => (await sequelize.query(sql, { bind: [...bind], type: QueryTypes.SELECT, transaction })) as T[];

/** The last changes of a session, oldest first, as far as they are not many bytes. */
export async function recentChanges(
  sequelize: Sequelize,
  session: string,
  transaction?: Transaction,
): Promise<readonly Change[]> {
  const [{ first }] = (await select<{ first: number }>(
    sequelize,
    `SELECT COALESCE(MIN(revision), 0) AS first FROM (
       SELECT revision,
              SUM(COALESCE(octet_length(commands::text), 0) + COALESCE(octet_length(inverse::text), 0))
                OVER (ORDER BY revision DESC) AS bytes
       FROM (SELECT * FROM session_changes WHERE session_id = $1 ORDER BY revision DESC LIMIT ${RECENT}) last
     ) sized WHERE bytes <= ${RECENT_BYTES}`,
    [session],
    transaction,
  )) as [{ first: number }];
  if (first === 0) return [];
  return select<Change>(
    sequelize,
    `${CHANGES} WHERE c.session_id = $1 AND c.revision >= $2 ORDER BY c.revision`,
    [session, first],
    transaction,
  );
}

/** The changes after a revision, oldest first, `MOST_MISSED` at most. */
export const changesAfter = (
  sequelize: Sequelize,
  session: string,
  revision: number,
  transaction?: Transaction,
): Promise<readonly Change[]> =>
  select<Change>(
    sequelize,
    `${CHANGES} WHERE c.session_id = $1 AND c.revision > $2 ORDER BY c.revision LIMIT ${MOST_MISSED}`,
    [session, revision],
    transaction,
  );

/** The changes after one revision up to another, oldest first. */
export const changesBetween = (
  sequelize: Sequelize,
  session: string,
  after: number,
  upTo: number,
  transaction?: Transaction,
): Promise<readonly Change[]> =>
  select<Change>(
    sequelize,
    `${CHANGES} WHERE c.session_id = $1 AND c.revision > $2 AND c.revision <= $3 ORDER BY c.revision`,
    [session, after, upTo],
    transaction,
  );

/** Edits that are looked through for what was reached for. */
const MOST_USES = 5000;
/** What hands reached for in the last hours, told from the edits that are kept: no more than which strips, and when. */
export async function recentUses(
  sequelize: Sequelize,
  session: string,
  hours: number,
): Promise<readonly Use[]> {
  const edits = await select<{ at: string; commands: readonly Command[] }>(
    sequelize,
    `SELECT * FROM (
       SELECT revision, EXTRACT(EPOCH FROM created_at) * 1000 AS at, commands FROM session_changes
       WHERE session_id = $1 AND kind = 'edit' AND created_at > now() - make_interval(hours => $2)
       ORDER BY revision DESC LIMIT ${MOST_USES}
     ) last ORDER BY revision`,
    [session, hours],
  );
  return usesOf(edits.map(({ at, commands }) => ({ at: Math.round(Number(at)), commands })));
}

/** One change by the name that its window gave it; null where it is not, or no longer, in the history. */
export async function changeNamed(
  sequelize: Sequelize,
  session: string,
  changeId: string,
  transaction?: Transaction,
): Promise<Change | null> {
  const [change] = await select<Change>(
    sequelize,
    `${CHANGES} WHERE c.session_id = $1 AND c.change_id = $2`,
    [session, changeId],
    transaction,
  );
  return change ?? null;
}

/** Up to which revision changes were let go: those after it are all there. */
export async function horizonOf(
  sequelize: Sequelize,
  session: string,
  transaction?: Transaction,
): Promise<number> {
  const [row] = await select<{ revision: number }>(
    sequelize,
    'SELECT revision FROM session_horizons WHERE session_id = $1',
    [session],
    transaction,
  );
  return row?.revision ?? 0;
}

/** All that can be undone and redone, as far back as the history goes. */
export async function stacksOf(
  sequelize: Sequelize,
  session: string,
  transaction?: Transaction,
): Promise<UndoStacks> {
  return undoStacks(
    await select<ChangeHead>(
      sequelize,
      `SELECT kind, label, change_id AS "changeId", of_change AS of
       FROM session_changes WHERE session_id = $1 ORDER BY revision`,
      [session],
      transaction,
    ),
  );
}

/** Writes a change down. An undo or a redo is written as the name of its edit: what it does follows from that one. */
export async function writeChange(
  session: string,
  { revision, kind, label, changeId, of, commands, inverse }: Change,
  transaction: Transaction,
): Promise<void> {
  const body: ChangeBody | Record<keyof ChangeBody, null> =
    of === null ? { commands, inverse } : { commands: null, inverse: null };
  await ChangeRow.create(
    { sessionId: session, revision, kind, label, changeId, ofChange: of, ...body },
    { transaction },
  );
}
