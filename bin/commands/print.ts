import {
  closeSync,
  existsSync,
  ftruncateSync,
  mkdirSync,
  openSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { Command, Option } from 'commander';
import { floatBytes, floatWavHeader } from '../../core/formats/audio/wav';
import { PrintMeter } from '../../core/metering/printMeter';
import { Refusal } from '../../core/base/refusal';
import type { Samples } from '../../core/base/units';
import type { Session } from '../../core/session/types';
import { print, type StemReader } from '../../engine/print';
import { openPackage } from '../../server/package/readPackage';
import { FileStems } from '../../server/package/stemFiles';
import { database, engineBinary, say, secondsFrom } from './shared';

const WHAT = ['outputs', 'submixes', 'strips'] as const;
type What = (typeof WHAT)[number];

const rounded = (x: number | null) => (x === null ? null : Math.round(x * 100) / 100);

/** The strips that a print takes: outputs, submixes, or all. */
export const stripsToPrint = (session: Session, what: What) =>
  session.strips
    .filter((s) => what === 'strips' || s.kind === (what === 'outputs' ? 'output' : 'submix'))
    .map((s) => s.id);

interface PrintOptions {
  readonly out: string;
  readonly what: What;
  readonly seconds?: number;
  readonly tail?: boolean;
}

/** Seconds that a tail may take at most. */
const LONGEST_TAIL = 120;

/** What is printed, and where its audio comes from. */
interface Printed {
  readonly session: Session;
  /** The stems, and how long the longest is; asked for once it is known that there is something to print. */
  stems(): Promise<{ readonly stems: StemReader; readonly longest: Samples }>;
  close(): Promise<void>;
}
async function packaged(name: string): Promise<Printed> {
  const pack = await openPackage(name);
  let files: FileStems | null = null;
  return {
    session: pack.session,
    stems: () => {
      files = FileStems.open(pack);
      return Promise.resolve({ stems: files, longest: files.longest });
    },
    async close() {
      files?.close();
      await pack.close();
    },
  };
}
async function stored(name: string): Promise<Printed> {
  const sequelize = await database();
  const close = () => sequelize.close();
  try {
    const { findSession } = await import('../../server/sessions/sessions');
    const { storedStems } = await import('../../server/audio/storedStems');
    const { document: session } = await findSession(sequelize, name);
    return { session, stems: () => storedStems(sequelize, session), close };
  } catch (error) {
    await close();
    throw error;
  }
}
/** What looks like a path, or is there, is a package; all else the name or the id of a session of the running application. */
const isPath = (name: string) => existsSync(name) || /[\\/]|\.zonula$/i.test(name);

async function printIt(name: string, { seconds, tail, ...options }: PrintOptions) {
  const { what } = options;
  const module = new WebAssembly.Module(engineBinary());
  const printed = await (isPath(name) ? packaged(name) : stored(name));
  try {
    const { session } = printed;
    const strips = stripsToPrint(session, what);
    if (strips.length === 0) throw new Refusal('range', `The session has no ${what} to print.`);
    const { stems, longest } = await printed.stems();
    const frames = seconds === undefined ? longest : Math.round(seconds * session.sampleRate);
    if (frames === 0)
      throw new Refusal('range', 'The session has no stems; say how long to print: --seconds N.');
    mkdirSync(options.out, { recursive: true });
    const files = new Map<
      string,
      { path: string; file: number; peak: number; channels: number; meter: PrintMeter }
    >();
    let length = frames;
    try {
      for await (const pieces of print({
        session,
        strips,
        frames,
        stems,
        module,
        ...(tail ? { tail: LONGEST_TAIL } : {}),
        ended: (n) => (length = n),
      })) {
        for (const { capture, audio, peak } of pieces) {
          let out = files.get(capture.strip);
          if (!out) {
            const path = join(options.out, `${capture.strip}.wav`);
            out = {
              path,
              file: openSync(`${path}.part`, 'w'),
              peak: 0,
              channels: capture.channels,
              meter: new PrintMeter(session.sampleRate, capture.channels),
            };
            files.set(capture.strip, out);
            writeFileSync(out.file, floatWavHeader(capture.channels, session.sampleRate, frames));
          }
          out.peak = Math.max(out.peak, peak);
          out.meter.push(audio);
          writeFileSync(out.file, floatBytes(audio));
        }
      }
    } catch (error) {
      for (const { file, path } of files.values()) {
        closeSync(file);
        rmSync(`${path}.part`, { force: true });
      }
      throw error;
    }
    for (const [strip, { path, file, peak, channels, meter }] of files) {
      // With a tail its length is known at the end alone.
      const header = floatWavHeader(channels, session.sampleRate, length);
      writeSync(file, header, 0, header.length, 0);
      ftruncateSync(file, header.length + length * channels * 4);
      closeSync(file);
      renameSync(`${path}.part`, path);
      const { integrated, range, maxMomentary, maxShortTerm, truePeakDb } = meter.end();
      say({
        strip,
        file: path,
        channels,
        sampleRate: session.sampleRate,
        frames: length,
        peakDb: rounded(peak > 0 ? 20 * Math.log10(peak) : null),
        truePeakDb: rounded(truePeakDb),
        lufs: rounded(integrated),
        rangeLu: rounded(range),
        momentaryMaxLufs: rounded(maxMomentary),
        shortTermMaxLufs: rounded(maxShortTerm),
      });
    }
  } finally {
    await printed.close();
  }
}

export const printCommand = () =>
  new Command('print')
    .summary('print a session to WAV files, one a strip')
    .description(
      'Prints a session package, or a session of the running application, to WAV files of 32-bit float, one a strip, and tells each as a JSON line: its peak, true peak (BS.1770-5) and loudness (EBU R 128).',
    )
    .argument(
      '<session>',
      'a folder with session.json, a .zonula file, or the name or the id of a session of the running application',
    )
    .requiredOption('--out <dir>', 'the folder to write to; it is made when it is not there')
    .addOption(new Option('--what <strips>', 'which strips').choices(WHAT).default('outputs'))
    .option(
      '--seconds <n>',
      'how long, where that is not the longest stem',
      secondsFrom('seconds', 'takes a number of seconds above 0', (s) => s > 0 && s <= 86400),
    )
    .option('--tail', `go on until it is silent, for ${LONGEST_TAIL} s at most`)
    .action(printIt);
