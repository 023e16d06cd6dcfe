import { Command } from 'commander';
import { measureLoad } from '../../engine/load';
import { openPackage } from '../../server/package/readPackage';
import { engineBinary, say } from './shared';

async function loadOf(name: string) {
  const pack = await openPackage(name);
  try {
    const { session } = pack;
    const module = new WebAssembly.Module(engineBinary());
    const read = measureLoad({ session, module, clock: () => performance.now() });
    const percent = (share: number) => Number((share * 100).toPrecision(3));
    for (const i of [...read.inserts].sort((a, b) => b.share - a.share))
      say({ strip: i.strip, insert: i.insert, processor: i.type, percentOfRealTime: percent(i.share) });
    say({
      session: session.name,
      percentOfRealTime: percent(read.share),
      timesRealTime: Number((1 / read.share).toPrecision(3)),
    });
  } finally {
    await pack.close();
  }
}

export const loadCommand = () =>
  new Command('load')
    .summary('what each processor costs on this machine, as JSON lines, the whole session last')
    .description('Measures what each processor costs on this machine, as JSON lines, the whole session last.')
    .argument('<package>', 'a folder with session.json, or a .zonula file')
    .action(loadOf);
