import type { Sequelize } from 'sequelize';

export const name = '2026-11-003-outputs-and-findings';

/** Sessions that were kept before say now which output is heard, by which channels outputs leave, and what was dismissed. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    UPDATE sessions SET document = jsonb_set(
      '{"monitor": null, "dismissed": []}'::jsonb || document,
      '{strips}',
      COALESCE(
        (SELECT jsonb_agg(jsonb_build_object('pair', CASE s->>'kind' WHEN 'output' THEN 1 END) || s ORDER BY n)
         FROM jsonb_array_elements(document->'strips') WITH ORDINALITY AS t(s, n)),
        '[]'::jsonb
      )
    )
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    UPDATE sessions SET document = jsonb_set(
      document - 'monitor' - 'dismissed',
      '{strips}',
      COALESCE(
        (SELECT jsonb_agg(s - 'pair' ORDER BY n)
         FROM jsonb_array_elements(document->'strips') WITH ORDINALITY AS t(s, n)),
        '[]'::jsonb
      )
    )
  `);
}
