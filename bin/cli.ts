import {
  closeSync,
  createWriteStream,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { floatBytes, floatWavHeader } from '../core/formats/wav';
import { Refusal } from '../core/session/refusal';
import type { Session } from '../core/session/types';
import { findings } from '../core/routing/findings/findings';
import type { Peaks } from '../core/routing/findings/finding';
import { standingAt } from '../core/automation/at';
import { trace } from '../core/routing/trace';
import { measureLoad } from '../engine/load';
import { measure } from '../engine/measure';
import { print } from '../engine/print';
import { openPackage } from '../server/package/readPackage';
import { FileStems } from '../server/package/stemFiles';

const root = fileURLToPath(new URL('..', import.meta.url));
const USAGE = `Zonula, on the command line.

  zonula start                        start the application
  zonula print PACKAGE --out DIR [--what outputs|submixes|strips] [--seconds N]
                                      print a session package to WAV files, one a strip
  zonula trace PACKAGE --from STRIP --to STRIP [--at SECONDS]
                                      every path between two strips with gain, delay and level at each stage, as JSON;
                                      what is automated stands where its lane has it at that time, 0 when left out
  zonula load PACKAGE                 what each processor costs on this machine, as JSON lines, the whole session last
  zonula check PACKAGE [--audio no]   what is wrong with the routing, as JSON lines; ends with 3 when there is anything
  zonula export SESSION --out FILE    write a session of the running application as a package
  zonula import PACKAGE               bring a package into the running application
  zonula backup FILE                  write everything that the running application keeps into one file
  zonula restore FILE [--replace yes] put everything back as it was; --replace lets what is there go
  zonula doctor [--repair yes]        look through everything that is kept, as JSON lines; ends with 3 when anything is wrong

PACKAGE is a folder with session.json, or a .zonula file. SESSION is a name or an id.
`;

class Usage extends Error {}

/** Writes to standard output at once: what does so by a stream takes longer to load than many a command to begin. */
function write(text: string) {
  let rest = Buffer.from(text);
  while (rest.length > 0) {
    try {
      rest = rest.subarray(writeSync(1, rest));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      // Who reads no further, as `head`, wants no more of it.
      if (code === 'EPIPE') return;
      if (code !== 'EAGAIN') throw error;
      // A full pipe empties when it is read: it is looked at again after a few milliseconds.
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
    }
  }
}
/** A JSON line. */
const say = (line: object) => write(`${JSON.stringify(line)}\n`);

/** @returns the exit code: 0 done, 1 an error, 2 a command that is not understood, 3 findings */
export async function main(args: readonly string[]): Promise<number> {
  try {
    const [command, ...rest] = args;
    switch (command) {
      case 'print':
        await printCommand(rest);
        return 0;
      case 'trace':
        await traceCommand(rest);
        return 0;
      case 'load':
        await loadCommand(rest);
        return 0;
      case 'check':
        return await checkCommand(rest);
      case 'export':
        await exportCommand(rest);
        return 0;
      case 'import':
        await importCommand(rest);
        return 0;
      case 'backup':
        await backupCommand(rest);
        return 0;
      case 'restore':
        await restoreCommand(rest);
        return 0;
      case 'doctor':
        return await doctorCommand(rest);
      case 'help':
      case '--help':
      case '-h':
        write(USAGE);
        return 0;
      default:
        throw new Usage(command === undefined ? 'Say what to do.' : `There is no command \`${command}\`.`);
    }
  } catch (error) {
    if (error instanceof Usage) {
      process.stderr.write(`zonula: ${error.message}\n\n${USAGE}`);
      return 2;
    }
    process.stderr.write(`zonula: ${(error as Error).message}\n`);
    return 1;
  }
}

function parse<O extends Record<string, { type: 'string' }>>(
  args: readonly string[],
  options: O,
  positional: string,
) {
  let parsed;
  try {
    parsed = parseArgs({ args: [...args], options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new Usage((error as Error).message);
  }
  if (parsed.positionals.length !== 1) throw new Usage(`Name one ${positional}.`);
  return { name: parsed.positionals[0]!, values: parsed.values as Partial<Record<keyof O, string>> };
}

const WHAT = ['outputs', 'submixes', 'strips'] as const;
type What = (typeof WHAT)[number];

/** The strips that a print takes: outputs, submixes, or all. */
export const stripsToPrint = (session: Session, what: What) =>
  session.strips
    .filter((s) => what === 'strips' || s.kind === (what === 'outputs' ? 'output' : 'submix'))
    .map((s) => s.id);

async function printCommand(args: readonly string[]) {
  const { name, values } = parse(
    args,
    { out: { type: 'string' }, what: { type: 'string' }, seconds: { type: 'string' } },
    'package',
  );
  if (!values.out) throw new Usage('Say where to: --out DIR.');
  const what = (values.what ?? 'outputs') as What;
  if (!WHAT.includes(what)) throw new Usage(`--what is one of ${WHAT.join(', ')}, not \`${what}\`.`);
  const seconds = values.seconds === undefined ? null : Number(values.seconds);
  if (seconds !== null && !(seconds > 0 && seconds <= 86400))
    throw new Usage('--seconds takes a number of seconds above 0.');

  const module = new WebAssembly.Module(await engineBinary());
  const pack = await openPackage(name);
  let stems: FileStems | null = null;
  try {
    const { session } = pack;
    const strips = stripsToPrint(session, what);
    if (strips.length === 0) throw new Refusal('range', `The session has no ${what} to print.`);
    stems = FileStems.open(pack);
    const frames = seconds === null ? stems.longest : Math.round(seconds * session.sampleRate);
    if (frames === 0)
      throw new Refusal('range', 'The session has no stems; say how long to print: --seconds N.');
    mkdirSync(values.out, { recursive: true });
    const files = new Map<string, { path: string; file: number; peak: number; channels: number }>();
    try {
      for await (const pieces of print({ session, strips, frames, stems, module })) {
        for (const { capture, audio, peak } of pieces) {
          let out = files.get(capture.strip);
          if (!out) {
            const path = join(values.out, `${capture.strip}.wav`);
            out = { path, file: openSync(`${path}.part`, 'w'), peak: 0, channels: capture.channels };
            files.set(capture.strip, out);
            writeFileSync(out.file, floatWavHeader(capture.channels, session.sampleRate, frames));
          }
          out.peak = Math.max(out.peak, peak);
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
    for (const [strip, { path, file, peak, channels }] of files) {
      closeSync(file);
      renameSync(`${path}.part`, path);
      const peakDb = peak > 0 ? Math.round(2000 * Math.log10(peak)) / 100 : null;
      say({ strip, file: path, channels, sampleRate: session.sampleRate, frames, peakDb });
    }
  } finally {
    stems?.close();
    await pack.close();
  }
}

async function traceCommand(args: readonly string[]) {
  const { name, values } = parse(
    args,
    { from: { type: 'string' }, to: { type: 'string' }, at: { type: 'string' } },
    'package',
  );
  const at = Number(values.at ?? 0);
  if (!(at >= 0)) throw new Usage('--at is a time in seconds, from 0 on.');
  if (!values.from || !values.to) throw new Usage('Say between which strips: --from STRIP --to STRIP.');
  const pack = await openPackage(name);
  try {
    const { session } = pack;
    const found = trace(standingAt(session, at), values.from, values.to);
    write(`${JSON.stringify({ sampleRate: session.sampleRate, ...found }, null, 2)}\n`);
  } finally {
    await pack.close();
  }
}

async function loadCommand(args: readonly string[]) {
  const { name } = parse(args, {}, 'package');
  const pack = await openPackage(name);
  try {
    const { session } = pack;
    const module = new WebAssembly.Module(await engineBinary());
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

async function checkCommand(args: readonly string[]): Promise<number> {
  const { name, values } = parse(args, { audio: { type: 'string' } }, 'package');
  if (values.audio !== undefined && !['yes', 'no'].includes(values.audio))
    throw new Usage('--audio is yes or no.');
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
    if (values.audio !== 'no' && session.strips.some((s) => s.stem !== null)) {
      stems = FileStems.open(pack);
      const module = new WebAssembly.Module(await engineBinary());
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

/** The compiled engine; it is built when it is not there. */
async function engineBinary(): Promise<Uint8Array<ArrayBuffer>> {
  const file = join(root, 'build', 'engine.wasm');
  if (!existsSync(file)) {
    const { buildEngine } = (await import('../scripts/build.mjs' as string)) as { buildEngine(): void };
    buildEngine();
  }
  return new Uint8Array(readFileSync(file));
}

/** What the running application says of itself. */
function running(): { readonly url: string; readonly cluster?: string } {
  if (process.env.DATABASE_URL) return { url: process.env.DATABASE_URL };
  const file = join(process.env.ZONULA_DATA ?? join(root, '.data'), 'running.json');
  if (!existsSync(file))
    throw new Error('Zonula is not running: start it with `npm start`, or set DATABASE_URL.');
  return JSON.parse(readFileSync(file, 'utf8')) as { url: string; cluster?: string };
}

/** The database of the running application. */
async function database() {
  const { url } = running();
  const { connect, migrate } = await import('../server/database/database');
  const sequelize = connect(url);
  try {
    await migrate(sequelize);
  } catch (error) {
    await sequelize.close();
    throw new Error(
      `The database does not answer (${(error as Error).message}). Is Zonula running? Start it with \`npm start\`.`,
      { cause: error },
    );
  }
  return sequelize;
}

async function exportCommand(args: readonly string[]) {
  const { name, values } = parse(args, { out: { type: 'string' } }, 'session');
  if (!values.out) throw new Usage('Say where to: --out FILE.');
  const sequelize = await database();
  try {
    const { exportPackage } = await import('../server/sessions/packages');
    const { findSession } = await import('../server/sessions/sessions');
    const { pipeline } = await import('node:stream/promises');
    const row = await findSession(sequelize, name);
    const part = `${values.out}.part`;
    const { stream, done } = exportPackage(sequelize, row.document);
    await Promise.all([done, pipeline(stream, createWriteStream(part))]);
    renameSync(part, values.out);
    say({ session: row.id, name: row.name, file: values.out });
  } finally {
    await sequelize.close();
  }
}

async function importCommand(args: readonly string[]) {
  const { name } = parse(args, {}, 'package');
  const sequelize = await database();
  try {
    const { importPackage } = await import('../server/sessions/packages');
    const row = await importPackage(sequelize, name);
    const { stripsIn } = await import('../server/sessions/sessions');
    say({ session: row.id, name: row.name, strips: await stripsIn(sequelize, row.id) });
  } finally {
    await sequelize.close();
  }
}

async function backupCommand(args: readonly string[]) {
  const { name } = parse(args, {}, 'file');
  const { backup } = await import('../server/backup');
  const bytes = await backup(running().url, name);
  say({ backup: name, bytes });
}

async function restoreCommand(args: readonly string[]) {
  const { name, values } = parse(args, { replace: { type: 'string' } }, 'file');
  const sequelize = await database();
  try {
    const { listSessions } = await import('../server/sessions/sessions');
    const there = await listSessions(sequelize);
    if (there.length && values.replace !== 'yes')
      throw new Refusal(
        'in-use',
        `${there.length === 1 ? 'A session is' : `${there.length} sessions are`} there already and would go. Back them up, or say --replace yes.`,
      );
    const { restore } = await import('../server/backup');
    await restore(running().url, name);
    const { migrate } = await import('../server/database/database');
    await migrate(sequelize);
    say({ restored: name, sessions: (await listSessions(sequelize)).length });
  } finally {
    await sequelize.close();
  }
}

async function doctorCommand(args: readonly string[]): Promise<number> {
  const { values } = parse(['everything', ...args], { repair: { type: 'string' } }, 'thing');
  if (values.repair !== undefined && !['yes', 'no'].includes(values.repair))
    throw new Usage('--repair is yes or no.');
  const sequelize = await database();
  let found = 0;
  try {
    const { examine } = await import('../server/doctor');
    const disk = running().cluster || null;
    for await (const problem of examine({ sequelize, repair: values.repair === 'yes', disk })) {
      found++;
      say(problem);
    }
  } finally {
    await sequelize.close();
  }
  return found ? 3 : 0;
}
