import { Command } from 'commander';
import { Refusal } from '../../core/base/refusal';
import { database, running, say, yesOrNo, type End, type ExitCode } from './shared';

async function writeBackup(name: string) {
  const { backup } = await import('../../server/backup');
  const bytes = await backup(running().url, name);
  say({ backup: name, bytes });
}

export const backupCommand = () =>
  new Command('backup')
    .summary('write everything that the running application keeps into one file')
    .description('Writes everything that the running application keeps into one file.')
    .argument('<file>', 'the file to write')
    .action(writeBackup);

async function putBack(name: string, options: { readonly replace: 'yes' | 'no' }) {
  const sequelize = await database();
  try {
    const { listSessions } = await import('../../server/sessions/sessions');
    const there = await listSessions(sequelize);
    if (there.length && options.replace !== 'yes')
      throw new Refusal(
        'in-use',
        `${there.length === 1 ? 'A session is' : `${there.length} sessions are`} there already and would go. Back them up, or say --replace yes.`,
      );
    const { restore } = await import('../../server/backup');
    await restore(running().url, name);
    const { migrate } = await import('../../server/database/database');
    await migrate(sequelize);
    say({ restored: name, sessions: (await listSessions(sequelize)).length });
  } finally {
    await sequelize.close();
  }
}

export const restoreCommand = () =>
  new Command('restore')
    .summary('put everything back as it was')
    .description('Puts everything back as it was when a backup was written.')
    .argument('<file>', 'a file that `zonula backup` wrote')
    .addOption(yesOrNo('replace', 'lets the sessions that are there go').default('no'))
    .action(putBack);

async function lookThrough(options: { readonly repair: 'yes' | 'no' }): Promise<ExitCode> {
  const sequelize = await database();
  let found = 0;
  try {
    const { examine } = await import('../../server/doctor');
    const disk = running().cluster || null;
    for await (const problem of examine({ sequelize, repair: options.repair === 'yes', disk })) {
      found++;
      say(problem);
    }
  } finally {
    await sequelize.close();
  }
  return found ? 3 : 0;
}

export const doctorCommand = (end: End) =>
  new Command('doctor')
    .summary('look through everything that is kept, as JSON lines; ends with 3 when anything is wrong')
    .description(
      'Looks through everything that is kept and tells what is wrong, as JSON lines; ends with 3 when anything is.',
    )
    .addOption(yesOrNo('repair', 'whether to repair what can be').default('no'))
    .action(async (options: { repair: 'yes' | 'no' }) => end(await lookThrough(options)));
