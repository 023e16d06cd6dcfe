import type { Sequelize } from 'sequelize';

export const name = '2026-11-008-list';

/** What the list of sessions shows of a document stands beside it, so that no document is read for the list. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    ALTER TABLE sessions
      ADD COLUMN strip_count integer GENERATED ALWAYS AS (jsonb_array_length(document->'strips')) STORED,
      ADD COLUMN sample_rate integer GENERATED ALWAYS AS ((document->>'sampleRate')::integer) STORED
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('ALTER TABLE sessions DROP COLUMN strip_count, DROP COLUMN sample_rate');
}
