import { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import * as first from './migrations/2026-11-001-sessions-and-stems';
import * as second from './migrations/2026-11-002-profiles-presets-versions';
import * as third from './migrations/2026-11-003-outputs-and-findings';
import * as fourth from './migrations/2026-11-004-links';
import * as fifth from './migrations/2026-11-005-preamplifiers';
import * as sixth from './migrations/2026-11-006-automation';
import * as seventh from './migrations/2026-11-007-history-and-references';
import * as eighth from './migrations/2026-11-008-list';
import * as ninth from './migrations/2026-11-009-snapshots';
import * as tenth from './migrations/2026-11-010-desks-and-spans';
import * as eleventh from './migrations/2026-11-011-settings';
import * as twelfth from './migrations/2026-11-012-devices';
import * as thirteenth from './migrations/2026-11-013-stem-depths';
import { defineModels } from './models';

const migrations = [
  first,
  second,
  third,
  fourth,
  fifth,
  sixth,
  seventh,
  eighth,
  ninth,
  tenth,
  eleventh,
  twelfth,
  thirteenth,
];

const open = (url: string, most: number) =>
  new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    pool: { max: most, acquire: 60_000, idle: 10_000 },
    dialectOptions: { connectionTimeoutMillis: 20_000, application_name: 'zonula' },
  });

/** Connections for audio, by those for everything else. */
const forAudio = new WeakMap<Sequelize, Sequelize>();

/**
 * A database with two sets of connections: what is long under way (stems in and out, backups) never takes one that an edit
 * waits for. The models are bound to the first; closing it closes both.
 */
export function connect(url: string): Sequelize {
  const sequelize = open(url, 10);
  const audio = open(url, 10);
  forAudio.set(sequelize, audio);
  const close = sequelize.close.bind(sequelize);
  sequelize.close = async () => {
    await Promise.all([close(), audio.close()]);
  };
  defineModels(sequelize);
  return sequelize;
}
/** The connections for audio. */
export const bulk = (sequelize: Sequelize): Sequelize => forAudio.get(sequelize) ?? sequelize;

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
