import { QueryTypes, type Sequelize } from 'sequelize';
import { bulk } from '../database/database';
import { documentsOf } from './documents';

/** Changes of a session that stay, and bytes of them, as the database keeps them. */
export const KEPT_CHANGES = 5000;
/** Rows removed at once. */
const BATCH = 500;

/**
 * Lets the oldest changes of long histories go. What is kept can be undone as before: an edit that a kept undo or redo names
 * stays with it. An edit never waits for this: the session's own row is not touched, and old changes are asked for by nobody.
 * @param kept changes that stay for each session
 * @returns how many were let go
 */
export async function compactHistories(sequelize: Sequelize, kept = KEPT_CHANGES): Promise<number> {
  const connection = bulk(sequelize);
  const long = (await connection.query(
    `SELECT s.id, s.revision - $1::int AS horizon
     FROM sessions s LEFT JOIN session_horizons h ON h.session_id = s.id
     WHERE s.revision - COALESCE(h.revision, 0) > $1::int * 1.1`,
    { bind: [kept], type: QueryTypes.SELECT },
  )) as { id: string; horizon: number }[];
  let gone = 0;
  for (const { id, horizon } of long) {
    // What goes is no longer needed to find the document.
    await documentsOf(sequelize).keep(id);
    // First it is said that they are not all there, then they go.
    await connection.query(
      `INSERT INTO session_horizons (session_id, revision)
       SELECT id, $2 FROM sessions WHERE id = $1
       ON CONFLICT (session_id) DO UPDATE SET revision = GREATEST(session_horizons.revision, $2)`,
      { bind: [id, horizon] },
    );
    for (;;) {
      const [row] = (await connection.query(
        `WITH old AS (
           SELECT c.id FROM session_changes c
           WHERE c.session_id = $1 AND c.revision <= $2 AND NOT EXISTS (
             SELECT 1 FROM session_changes u
             WHERE u.session_id = c.session_id AND u.of_change = c.change_id AND u.revision > $2)
           LIMIT ${BATCH}
         ), gone AS (DELETE FROM session_changes WHERE id IN (SELECT id FROM old) RETURNING 1)
         SELECT count(*)::int AS n FROM gone`,
        { bind: [id, horizon], type: QueryTypes.SELECT },
      )) as { n: number }[];
      gone += row!.n;
      if (row!.n < BATCH) break;
    }
    await releaseStems(sequelize, id);
  }
  return gone;
}

/** Stems that neither the document nor any change that is left names are not the session's any more. */
async function releaseStems(sequelize: Sequelize, session: string): Promise<void> {
  const connection = bulk(sequelize);
  const [seen] = (await connection.query(
    `SELECT s.revision, array(
       SELECT r.stem_id FROM session_stems r JOIN stems t ON t.id = r.stem_id
       WHERE r.session_id = s.id
         AND position(t.sha256 IN k.document) = 0
         AND NOT EXISTS (
           SELECT 1 FROM session_changes c WHERE c.session_id = s.id
             AND (position(t.sha256 IN c.commands::text) > 0 OR position(t.sha256 IN c.inverse::text) > 0))
     ) AS unnamed
     FROM sessions s JOIN session_snapshots k ON k.session_id = s.id WHERE s.id = $1`,
    { bind: [session], type: QueryTypes.SELECT },
  )) as { revision: number; unnamed: number[] }[];
  if (!seen?.unnamed.length) return;
  // What was looked at still holds where no edit came meanwhile; else the next time will do.
  await connection.query(
    `WITH same AS (SELECT 1 FROM sessions WHERE id = $1 AND revision = $2 FOR UPDATE)
     DELETE FROM session_stems WHERE session_id = $1 AND stem_id = ANY($3) AND EXISTS (SELECT 1 FROM same)`,
    { bind: [session, seen.revision, seen.unnamed] },
  );
}
