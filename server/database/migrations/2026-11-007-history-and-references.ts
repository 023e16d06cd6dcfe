import { QueryTypes, type Sequelize } from 'sequelize';
import { undoStacks, stacksAfter, NO_STACKS, type ChangeHead } from '../../../core/edits/history';

export const name = '2026-11-007-history-and-references';

/**
 * An undo names the change that it takes back and does not carry it. What stems a session names, now or in its history, is kept
 * as rows, which keep those stems. Rooms of dead rows are taken back soon: every edit writes its session's document anew.
 */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const run = (sql: string) => sequelize.query(sql, { transaction });
    await run(`
      ALTER TABLE session_changes ADD COLUMN of_change uuid;
      ALTER TABLE session_changes ALTER COLUMN commands DROP NOT NULL, ALTER COLUMN inverse DROP NOT NULL;
      CREATE INDEX session_changes_of ON session_changes (session_id, of_change) WHERE of_change IS NOT NULL;
      ALTER TABLE stems ADD COLUMN used_at timestamptz NOT NULL DEFAULT now();
      ALTER TABLE stems ADD COLUMN damaged boolean NOT NULL DEFAULT false;
      UPDATE stems SET used_at = created_at;
      CREATE TABLE session_stems (
        session_id uuid NOT NULL REFERENCES sessions (id) ON DELETE CASCADE,
        stem_id integer NOT NULL REFERENCES stems (id) ON DELETE RESTRICT,
        PRIMARY KEY (session_id, stem_id)
      );
      CREATE INDEX session_stems_stem ON session_stems (stem_id);
      -- Up to where changes were let go; those after are all there.
      CREATE TABLE session_horizons (
        session_id uuid PRIMARY KEY REFERENCES sessions (id) ON DELETE CASCADE,
        revision integer NOT NULL
      );
      ALTER TABLE sessions SET (
        autovacuum_vacuum_threshold = 100, autovacuum_vacuum_scale_factor = 0,
        toast.autovacuum_vacuum_threshold = 500, toast.autovacuum_vacuum_scale_factor = 0
      );
    `);
    await run(`
      INSERT INTO session_stems (session_id, stem_id)
      SELECT DISTINCT found.session_id, s.id FROM (
        SELECT id AS session_id, (regexp_matches(document::text, 'sha256:([0-9a-f]{64})', 'g'))[1] AS hash FROM sessions
        UNION
        SELECT session_id, (regexp_matches(commands::text, 'sha256:([0-9a-f]{64})', 'g'))[1] FROM session_changes
        UNION
        SELECT session_id, (regexp_matches(inverse::text, 'sha256:([0-9a-f]{64})', 'g'))[1] FROM session_changes
      ) found JOIN stems s ON s.sha256 = found.hash
    `);
    const heads = (await sequelize.query(
      `SELECT id, session_id AS session, kind, label, change_id AS "changeId", NULL AS of
       FROM session_changes ORDER BY session_id, revision`,
      { type: QueryTypes.SELECT, transaction },
    )) as (ChangeHead & { readonly id: string; readonly session: string })[];
    let stacks = undoStacks([]);
    let session = '';
    for (const head of heads) {
      if (head.session !== session) stacks = NO_STACKS;
      session = head.session;
      const meant = head.kind === 'undo' ? stacks.undo.at(-1) : stacks.redo.at(-1);
      if (head.kind !== 'edit' && meant)
        await sequelize.query(`UPDATE session_changes SET of_change = $1 WHERE id = $2`, {
          bind: [meant.changeId, head.id],
          transaction,
        });
      stacks = stacksAfter(stacks, head);
    }
  });
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    UPDATE session_changes c
    SET commands = CASE c.kind WHEN 'undo' THEN t.inverse ELSE t.commands END,
        inverse = CASE c.kind WHEN 'undo' THEN t.commands ELSE t.inverse END
    FROM session_changes t
    WHERE c.commands IS NULL AND t.session_id = c.session_id AND t.change_id = c.of_change;
    ALTER TABLE session_changes DROP COLUMN of_change;
    ALTER TABLE session_changes ALTER COLUMN commands SET NOT NULL, ALTER COLUMN inverse SET NOT NULL;
    ALTER TABLE stems DROP COLUMN used_at, DROP COLUMN damaged;
    DROP TABLE session_stems, session_horizons;
    ALTER TABLE sessions RESET (
      autovacuum_vacuum_threshold, autovacuum_vacuum_scale_factor,
      toast.autovacuum_vacuum_threshold, toast.autovacuum_vacuum_scale_factor
    );
  `);
}
