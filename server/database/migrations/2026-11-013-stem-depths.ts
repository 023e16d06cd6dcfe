import type { Sequelize } from 'sequelize';

export const name = '2026-11-013-stem-depths';

/**
 * Stems are kept at the depth they came with, in parts that fit a page of the table, so that they are copied in and read without
 * a second table beside it; and when each begins, where its file tells. Those that are there stay as they are: floats, in parts of a megabyte. What a stem's parts belong to
 * is seen to when it goes: to look it up for each part that comes in takes longer than to write it.
 */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    ALTER TABLE stems
      ADD COLUMN depth text NOT NULL DEFAULT 'f32' CHECK (depth IN ('s16', 's24', 's32', 'f32')),
      ADD COLUMN part_bytes integer NOT NULL DEFAULT 1048576,
      ADD COLUMN begins double precision;
    ALTER TABLE stem_chunks SET (toast_tuple_target = 8160);
    ALTER TABLE stem_chunks DROP CONSTRAINT stem_chunks_stem_id_fkey;
    CREATE FUNCTION remove_stem_chunks() RETURNS trigger LANGUAGE plpgsql AS $$
      BEGIN
        DELETE FROM stem_chunks WHERE stem_id = OLD.id;
        RETURN NULL;
      END $$;
    CREATE TRIGGER stems_remove_chunks AFTER DELETE ON stems FOR EACH ROW EXECUTE FUNCTION remove_stem_chunks();
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    DROP TRIGGER stems_remove_chunks ON stems;
    DROP FUNCTION remove_stem_chunks;
    ALTER TABLE stem_chunks ADD FOREIGN KEY (stem_id) REFERENCES stems (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED;
    ALTER TABLE stem_chunks RESET (toast_tuple_target);
    ALTER TABLE stems DROP COLUMN depth, DROP COLUMN part_bytes, DROP COLUMN begins;
  `);
}
