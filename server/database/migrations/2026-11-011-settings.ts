import type { Sequelize } from 'sequelize';

export const name = '2026-11-011-settings';

/** What the server is set to in the page: each part of it by its name. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE settings (
      name text PRIMARY KEY,
      value jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    )
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DROP TABLE settings');
}
