import { Command } from 'commander';
import { standingAt } from '../../core/automation/at';
import { trace } from '../../core/routing/trace';
import { openPackage } from '../../server/package/readPackage';
import { secondsFrom, write } from './shared';

interface TraceOptions {
  readonly from: string;
  readonly to: string;
  readonly at: number;
}

async function tracePackage(name: string, options: TraceOptions) {
  const pack = await openPackage(name);
  try {
    const { session } = pack;
    const found = trace(standingAt(session, options.at), options.from, options.to);
    write(`${JSON.stringify({ sampleRate: session.sampleRate, ...found }, null, 2)}\n`);
  } finally {
    await pack.close();
  }
}

export const traceCommand = () =>
  new Command('trace')
    .summary('every path between two strips with gain, delay and level at each stage, as JSON')
    .description('Tells every path between two strips with gain, delay and level at each stage, as JSON.')
    .argument('<package>', 'a folder with session.json, or a .zonula file')
    .requiredOption('--from <strip>', 'the id of the strip where the paths begin')
    .requiredOption('--to <strip>', 'the id of the strip where they end')
    .option(
      '--at <seconds>',
      'the time at which automated controls are read from their lanes',
      secondsFrom('at', 'is a time in seconds, from 0 on', (s) => s >= 0),
      0,
    )
    .action(tracePackage);
