import type { Sequelize } from 'sequelize';

export const name = '2026-11-002-profiles-presets-versions';

export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE surface_profiles (
      id text PRIMARY KEY,
      name text NOT NULL,
      profile jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    );
    CREATE TABLE presets (
      id uuid PRIMARY KEY,
      name text NOT NULL,
      kind text NOT NULL,
      settings jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    );
    CREATE TABLE versions (
      id uuid PRIMARY KEY,
      session_id uuid NOT NULL REFERENCES sessions (id) ON DELETE CASCADE,
      name text NOT NULL,
      document jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now()
    );
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DROP TABLE versions, presets, surface_profiles');
}
