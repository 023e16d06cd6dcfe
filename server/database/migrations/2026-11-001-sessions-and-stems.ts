import type { Sequelize } from 'sequelize';

export const name = '2026-11-001-sessions-and-stems';

export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    CREATE TABLE sessions (
      id uuid PRIMARY KEY,
      name text NOT NULL,
      document jsonb NOT NULL,
      revision integer NOT NULL DEFAULT 0,
      opened_at timestamptz NOT NULL DEFAULT now(),
      created_at timestamptz NOT NULL DEFAULT now(),
      updated_at timestamptz NOT NULL DEFAULT now()
    );
    CREATE INDEX sessions_opened ON sessions (opened_at DESC);

    CREATE TABLE session_changes (
      id bigserial PRIMARY KEY,
      session_id uuid NOT NULL REFERENCES sessions (id) ON DELETE CASCADE,
      revision integer NOT NULL,
      kind text NOT NULL CHECK (kind IN ('edit', 'undo', 'redo')),
      label text NOT NULL,
      change_id uuid NOT NULL,
      commands jsonb NOT NULL,
      inverse jsonb NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now(),
      UNIQUE (session_id, revision),
      UNIQUE (session_id, change_id)
    );

    CREATE TABLE stems (
      id serial PRIMARY KEY,
      sha256 char(64) NOT NULL UNIQUE,
      channels smallint NOT NULL CHECK (channels IN (1, 2)),
      sample_rate integer NOT NULL,
      frames integer NOT NULL,
      overview bytea NOT NULL,
      created_at timestamptz NOT NULL DEFAULT now()
    );

    CREATE TABLE stem_chunks (
      stem_id integer NOT NULL REFERENCES stems (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
      index integer NOT NULL,
      data bytea NOT NULL,
      PRIMARY KEY (stem_id, index)
    );
    -- Audio hardly shrinks, and a part of a value that is not compressed can be read without the whole.
    ALTER TABLE stem_chunks ALTER COLUMN data SET STORAGE EXTERNAL;
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DROP TABLE stem_chunks, stems, session_changes, sessions');
}
