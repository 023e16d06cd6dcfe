import { QueryTypes, type Sequelize } from 'sequelize';

export const name = '2026-11-009-snapshots';

/**
 * A session's document stands beside its row, as it was at some revision: what was done since is in the history. An edit writes
 * itself, and not the document anew. Edits stay the text that they were, so that doing them again gives the same text.
 */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE session_snapshots (
      session_id uuid PRIMARY KEY REFERENCES sessions ON DELETE CASCADE,
      revision integer NOT NULL,
      document text NOT NULL
    );
    INSERT INTO session_snapshots SELECT id, revision, document::text FROM sessions;
    ALTER TABLE sessions ADD COLUMN strips integer NOT NULL DEFAULT 0, ADD COLUMN rate integer NOT NULL DEFAULT 48000;
    UPDATE sessions SET strips = strip_count, rate = sample_rate;
    ALTER TABLE sessions DROP COLUMN strip_count, DROP COLUMN sample_rate, DROP COLUMN document;
    ALTER TABLE sessions RENAME COLUMN strips TO strip_count;
    ALTER TABLE sessions RENAME COLUMN rate TO sample_rate;
    ALTER TABLE session_changes ALTER COLUMN commands TYPE json, ALTER COLUMN inverse TYPE json;
  `);
}

/** @throws where a snapshot is older than its session: `keepAll` writes them all */
export async function down(sequelize: Sequelize): Promise<void> {
  const [behind] = await sequelize.query(
    `SELECT 1 FROM sessions s LEFT JOIN session_snapshots k ON k.session_id = s.id AND k.revision = s.revision
     WHERE k.session_id IS NULL LIMIT 1`,
    { type: QueryTypes.SELECT },
  );
  if (behind) throw new Error('A document is older than its session: an earlier program would lose edits.');
  await sequelize.query(`
    ALTER TABLE sessions DROP COLUMN strip_count, DROP COLUMN sample_rate, ADD COLUMN document jsonb;
    UPDATE sessions SET document = k.document::jsonb FROM session_snapshots k WHERE k.session_id = id;
    ALTER TABLE sessions
      ALTER COLUMN document SET NOT NULL,
      ADD COLUMN strip_count integer GENERATED ALWAYS AS (jsonb_array_length(document->'strips')) STORED,
      ADD COLUMN sample_rate integer GENERATED ALWAYS AS ((document->>'sampleRate')::integer) STORED;
    DROP TABLE session_snapshots;
    ALTER TABLE session_changes ALTER COLUMN commands TYPE jsonb, ALTER COLUMN inverse TYPE jsonb;
  `);
}
