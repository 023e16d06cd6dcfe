import { Command } from 'commander';
import { findings } from '../../core/findings/findings';
import type { Peaks } from '../../core/findings/finding';
import { Refusal } from '../../core/base/refusal';
import { measure } from '../../engine/measure';
import { openPackage } from '../../server/package/readPackage';
import { FileStems } from '../../server/package/stemFiles';
import { engineBinary, say, yesOrNo, type End, type ExitCode } from './shared';

async function check(name: string, options: { readonly audio: 'yes' | 'no' }): Promise<ExitCode> {
  let pack;
  try {
    pack = await openPackage(name);
  } catch (error) {
    if (!(error instanceof Refusal) || error.rule !== 'cycle') throw error;
    // A loop keeps a session from being opened at all: it is told as a finding like the others.
    say({
      key: 'loop',
      rule: 'loop',
      severity: 'fault',
      sure: 'certain',
      what: error.message,
      why: 'A signal that feeds itself has no order in which it can be computed.',
      where: error.things,
      repair: null,
    });
    return 3;
  }
  let stems: FileStems | null = null;
  try {
    const { session } = pack;
    let peaks: Peaks | null = null;
    if (options.audio !== 'no' && session.strips.some((s) => s.stem !== null)) {
      stems = FileStems.open(pack);
      const module = new WebAssembly.Module(engineBinary());
      const read = await measure({ session, start: 0, frames: stems.longest, stems, module, levels: false });
      peaks = new Map(read.strips.map((s) => [s.strip, s.peak]));
    }
    const found = findings(session, peaks).filter((f) => !session.dismissed.includes(f.key));
    for (const f of found) say(f);
    return found.length ? 3 : 0;
  } finally {
    stems?.close();
    await pack.close();
  }
}

export const checkCommand = (end: End) =>
  new Command('check')
    .summary('what is wrong with the routing, as JSON lines; ends with 3 when there is anything')
    .description('Tells what is wrong with the routing, as JSON lines; ends with 3 when there is anything.')
    .argument('<package>', 'a folder with session.json, or a .zonula file')
    .addOption(yesOrNo('audio', 'whether stems are played to find what clips').default('yes'))
    .action(async (name: string, options: { audio: 'yes' | 'no' }) => end(await check(name, options)));
