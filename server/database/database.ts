import { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import * as first from './migrations/2026-11-001-sessions-and-stems';
import * as second from './migrations/2026-11-002-profiles-presets-versions';
import * as third from './migrations/2026-11-003-outputs-and-findings';
import * as fourth from './migrations/2026-11-004-links';
import * as fifth from './migrations/2026-11-005-preamplifiers';
import * as sixth from './migrations/2026-11-006-automation';
import { defineModels } from './models';

const migrations = [first, second, third, fourth, fifth, sixth];

export function connect(url: string): Sequelize {
  const sequelize = new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    pool: { max: 10, acquire: 60_000, idle: 10_000 },
    dialectOptions: { connectionTimeoutMillis: 20_000 },
  });
  defineModels(sequelize);
  return sequelize;
}

/** Brings the tables to where this program needs them. */
export async function migrate(sequelize: Sequelize): Promise<void> {
  const umzug = new Umzug({
    migrations: migrations.map((m) => ({
      name: m.name,
      up: () => m.up(sequelize),
      down: () => m.down(sequelize),
    })),
    storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
    logger: undefined,
  });
  await umzug.up();
}
