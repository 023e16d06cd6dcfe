import { createWriteStream, renameSync } from 'node:fs';
import { Command } from 'commander';
import { database, say } from './shared';

async function exportSession(name: string, options: { readonly out: string }) {
  const sequelize = await database();
  try {
    const { exportPackage } = await import('../../server/sessions/packages');
    const { findSession } = await import('../../server/sessions/sessions');
    const { pipeline } = await import('node:stream/promises');
    const row = await findSession(sequelize, name);
    const part = `${options.out}.part`;
    const { stream, done } = exportPackage(sequelize, row.document);
    await Promise.all([done, pipeline(stream, createWriteStream(part))]);
    renameSync(part, options.out);
    say({ session: row.id, name: row.name, file: options.out });
  } finally {
    await sequelize.close();
  }
}

export const exportCommand = () =>
  new Command('export')
    .summary('write a session of the running application as a package')
    .description('Writes a session of the running application as a package.')
    .argument('<session>', 'its name or its id')
    .requiredOption('--out <file>', 'the file to write')
    .action(exportSession);

async function bringIn(name: string) {
  const sequelize = await database();
  try {
    const { importPackage } = await import('../../server/sessions/packages');
    const row = await importPackage(sequelize, name);
    const { stripsIn } = await import('../../server/sessions/sessions');
    say({ session: row.id, name: row.name, strips: await stripsIn(sequelize, row.id) });
  } finally {
    await sequelize.close();
  }
}

export const importCommand = () =>
  new Command('import')
    .summary('bring a package into the running application')
    .description('Brings a package into the running application.')
    .argument('<package>', 'a folder with session.json, or a .zonula file')
    .action(bringIn);
