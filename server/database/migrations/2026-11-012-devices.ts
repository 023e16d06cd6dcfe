import type { Sequelize } from 'sequelize';

export const name = '2026-11-012-devices';

/** Other machines that were let in. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE devices (
      id uuid PRIMARY KEY,
      name text NOT NULL,
      role text NOT NULL,
      address text,
      seen_at timestamptz NOT NULL DEFAULT now(),
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    )
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DROP TABLE devices');
}
