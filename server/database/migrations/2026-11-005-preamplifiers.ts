import type { Sequelize } from 'sequelize';

export const name = '2026-11-005-preamplifiers';

/** Strips that were kept before come by no preamplifier. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    UPDATE sessions SET document = jsonb_set(document, '{strips}', COALESCE(
      (SELECT jsonb_agg('{"preamp": null}'::jsonb || s ORDER BY n)
       FROM jsonb_array_elements(document->'strips') WITH ORDINALITY AS t(s, n)),
      '[]'::jsonb
    ))
  `);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`
    UPDATE sessions SET document = jsonb_set(document, '{strips}', COALESCE(
      (SELECT jsonb_agg(s - 'preamp' ORDER BY n)
       FROM jsonb_array_elements(document->'strips') WITH ORDINALITY AS t(s, n)),
      '[]'::jsonb
    ))
  `);
}
