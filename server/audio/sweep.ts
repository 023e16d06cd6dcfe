import { QueryTypes, type Sequelize } from 'sequelize';
import { bulk } from '../database/database';
import { nearOf } from './stemCache';

/** Stems removed in one transaction. */
const BATCH = 20;
/** A stem that no session ever named may be on its way into one for as long: many files come in before their strips are made. */
const ON_ITS_WAY = '24 hours';
/** One whose session was just deleted may be on its way into another. */
const JUST_LEFT = '1 hour';

/**
 * Removes stems that no session and no change of one names. A stem that is on its way into a session stays: it is young, as
 * whatever brings it in makes it so (`touchStems`), and who writes down that it is named holds it meanwhile (`referTo`).
 * @param ids looks at these alone, which a deleted session named
 * @returns how many were removed
 */
export async function sweepStems(sequelize: Sequelize, ids?: readonly number[]): Promise<number> {
  let removed = 0;
  for (;;) {
    const gone = await bulk(sequelize).transaction(async (transaction) => {
      const unnamed = `NOT EXISTS (SELECT 1 FROM session_stems r WHERE r.stem_id = s.id)`;
      const found = (await sequelize.query(
        `SELECT s.id FROM stems s
         WHERE s.used_at < now() - interval '${ids ? JUST_LEFT : ON_ITS_WAY}' AND ${unnamed}
           ${ids ? 'AND s.id = ANY($1)' : ''}
         LIMIT ${BATCH} FOR UPDATE SKIP LOCKED`,
        { bind: ids ? [[...ids]] : [], type: QueryTypes.SELECT, transaction },
      )) as { id: number }[];
      if (found.length === 0) return [];
      // Nobody can name them now; what was named between the two questions is seen by the second.
      const gone = (await sequelize.query(
        `WITH gone AS (DELETE FROM stems s WHERE s.id = ANY($1) AND ${unnamed} RETURNING sha256) SELECT sha256 FROM gone`,
        { bind: [found.map((r) => r.id)], type: QueryTypes.SELECT, transaction },
      )) as { sha256: string }[];
      return gone.map((r) => r.sha256.trim());
    });
    for (const sha256 of gone) nearOf(sequelize)?.drop(sha256);
    if (gone.length === 0) return removed;
    removed += gone.length;
  }
}

/** The stems that a session names, by their rows. */
export async function stemIdsOf(sequelize: Sequelize, session: string): Promise<readonly number[]> {
  const rows = (await sequelize.query('SELECT stem_id AS id FROM session_stems WHERE session_id = $1', {
    bind: [session],
    type: QueryTypes.SELECT,
  })) as { id: number }[];
  return rows.map((r) => r.id);
}

/** Bytes that the chunks' table takes, and bytes of audio that are alive in it at most. */
async function roomOfChunks(sequelize: Sequelize): Promise<{ taken: number; alive: number }> {
  const [row] = (await sequelize.query(
    `SELECT pg_total_relation_size('stem_chunks')::float8 AS taken,
            (SELECT COALESCE(SUM(frames::float8 * channels * CASE depth WHEN 's16' THEN 2 WHEN 's24' THEN 3 ELSE 4 END), 0) FROM stems) AS alive`,
    { type: QueryTypes.SELECT },
  )) as { taken: number; alive: number }[];
  return row!;
}

/** Bytes of dead rows that are not worth the table being written anew. */
const WORTH = 256 * 2 ** 20;

/**
 * Gives back the room of removed stems: within the table at once, to the disk where more than half of the table is dead. The
 * table is written anew for that, and audio waits meanwhile: so it is done while nobody plays.
 * @returns bytes that came back to the disk
 */
export async function giveBackRoom(sequelize: Sequelize, nobodyPlays: boolean): Promise<number> {
  const connection = bulk(sequelize);
  const before = await roomOfChunks(sequelize);
  await connection.query('VACUUM stem_chunks');
  const now = await roomOfChunks(sequelize);
  if (nobodyPlays && now.taken > now.alive * 2 + WORTH) await connection.query('VACUUM FULL stem_chunks');
  return Math.max(0, before.taken - (await roomOfChunks(sequelize)).taken);
}
