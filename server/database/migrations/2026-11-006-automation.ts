import type { Sequelize } from 'sequelize';

export const name = '2026-11-006-automation';

/** The parts of a strip, each with this in front of what it says of itself. */
const parts = (list: string) => `COALESCE(
  (SELECT jsonb_agg('{"lanes": {}}'::jsonb || x ORDER BY k)
   FROM jsonb_array_elements(s->'${list}') WITH ORDINALITY AS p(x, k)),
  '[]'::jsonb
)`;
const bare = (list: string) => `COALESCE(
  (SELECT jsonb_agg(x - 'lanes' ORDER BY k)
   FROM jsonb_array_elements(s->'${list}') WITH ORDINALITY AS p(x, k)),
  '[]'::jsonb
)`;
const each = (list: string, make: string) => `
  UPDATE sessions SET document = jsonb_set(document, '{${list}}', COALESCE(
    (SELECT jsonb_agg(${make} ORDER BY n)
     FROM jsonb_array_elements(document->'${list}') WITH ORDINALITY AS t(s, n)),
    '[]'::jsonb
  ))
`;

/** Sessions that were kept before have no lanes; their strips would follow them. */
export async function up(sequelize: Sequelize): Promise<void> {
  const own = `'{"automation": "read", "lanes": {}}'::jsonb || s`;
  await sequelize.query(
    each(
      'strips',
      `${own} || jsonb_build_object('sends', ${parts('sends')}, 'inserts', ${parts('inserts')})`,
    ),
  );
  await sequelize.query(each('vcas', own));
}

export async function down(sequelize: Sequelize): Promise<void> {
  const own = `(s - 'automation' - 'lanes')`;
  await sequelize.query(
    each('strips', `${own} || jsonb_build_object('sends', ${bare('sends')}, 'inserts', ${bare('inserts')})`),
  );
  await sequelize.query(each('vcas', own));
}
