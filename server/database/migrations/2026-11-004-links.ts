import type { Sequelize } from 'sequelize';

export const name = '2026-11-004-links';

/** Sessions that were kept before have no links. */
export async function up(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`UPDATE sessions SET document = '{"links": []}'::jsonb || document`);
}

export async function down(sequelize: Sequelize): Promise<void> {
  await sequelize.query(`UPDATE sessions SET document = document - 'links'`);
}
