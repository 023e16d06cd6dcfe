import { Command, CommanderError } from 'commander';
import { version } from '../package.json';
import { checkCommand } from './commands/check';
import { loadCommand } from './commands/load';
import { exportCommand, importCommand } from './commands/packages';
import { oscDeskCommand } from './commands/oscDesk';
import { printCommand } from './commands/print';
import { write, type End, type ExitCode } from './commands/shared';
import { traceCommand } from './commands/trace';
import { backupCommand, doctorCommand, restoreCommand } from './commands/upkeep';

function program(end: End): Command {
  const all = new Command('zonula')
    .description('Zonula, on the command line.')
    .version(version, '-v, --version', 'the version, and nothing else')
    .helpOption('-h, --help', 'this help; `zonula help COMMAND` tells what a command takes');
  // `start` never comes here: bin/zonula begins it before anything is loaded.
  const start = new Command('start').summary('start the application').description('Starts the application.');
  const commands = [
    start,
    printCommand(),
    traceCommand(),
    loadCommand(),
    checkCommand(end),
    exportCommand(),
    importCommand(),
    backupCommand(),
    restoreCommand(),
    doctorCommand(end),
    oscDeskCommand(),
  ];
  for (const command of commands) all.addCommand(command);
  for (const command of [all, ...commands])
    command
      .exitOverride()
      .configureOutput({
        writeOut: write,
        outputError: (text, put) => put(`zonula: ${text.replace(/^error: /, '')}`),
      })
      .showHelpAfterError(
        `Say \`zonula help${command === all ? '' : ` ${command.name()}`}\` for what it takes.`,
      );
  return all;
}

/** Runs one command. @param args what stands behind `zonula` */
export async function main(args: readonly string[]): Promise<ExitCode> {
  let code: ExitCode = 0;
  const all = program((ended) => (code = ended));
  if (args.length === 0) {
    process.stderr.write(`zonula: Say what to do.\n\n${all.helpInformation()}`);
    return 2;
  }
  try {
    await all.parseAsync([...args], { from: 'user' });
    return code;
  } catch (error) {
    // Commander has told what it did not understand, and ends so too where it was asked for help.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    process.stderr.write(`zonula: ${(error as Error).message}\n`);
    return 1;
  }
}
