import type { Sequelize } from 'sequelize';

export const name = '2026-11-010-desks-and-spans';

/** Desks of control surfaces are kept, and where each stem sounds; of stems that are there already it is found beside other work. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE desks (
      id text PRIMARY KEY,
      name text NOT NULL,
      desk jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    );
    ALTER TABLE stems ADD COLUMN spans json;
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DROP TABLE desks; ALTER TABLE stems DROP COLUMN spans');
}
