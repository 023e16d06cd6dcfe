import { existsSync, readFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { InvalidArgumentError, Option } from 'commander';

// As it runs, all of the command line is one file, build/cli.cjs.
const root = fileURLToPath(new URL('..', import.meta.url));

/** How a command ends: 0 done, 1 an error, 2 what was not understood, 3 findings. */
export type ExitCode = 0 | 1 | 2 | 3;
/** Called by a command that ends otherwise than with 0. */
export type End = (code: ExitCode) => void;

/** A choice between yes and no. */
export const yesOrNo = (name: string, about: string) =>
  new Option(`--${name} <yes|no>`, about).choices(['yes', 'no']);

/** Reads a time in seconds from an argument. @throws InvalidArgumentError outside the range */
export const secondsFrom =
  (option: string, what: string, fits: (seconds: number) => boolean) =>
  (text: string): number => {
    const seconds = Number(text);
    if (text.trim() === '' || !fits(seconds)) throw new InvalidArgumentError(`--${option} ${what}.`);
    return seconds;
  };

/** Writes to standard output at once: what does so by a stream takes longer to load than many a command to begin. */
export function write(text: string) {
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
export const say = (line: object) => write(`${JSON.stringify(line)}\n`);

/** The compiled engine, which bin/zonula has built when it was not there. */
export const engineBinary = (): Uint8Array<ArrayBuffer> =>
  new Uint8Array(readFileSync(join(root, 'build', 'engine.wasm')));

/** What the running application says of itself. */
export function running(): { readonly url: string; readonly cluster?: string } {
  if (process.env.DATABASE_URL) return { url: process.env.DATABASE_URL };
  const file = join(process.env.ZONULA_DATA ?? join(root, '.data'), 'running.json');
  if (!existsSync(file))
    throw new Error('Zonula is not running: start it with `npm start`, or set DATABASE_URL.');
  return JSON.parse(readFileSync(file, 'utf8')) as { url: string; cluster?: string };
}

/** The database of the running application. */
export async function database() {
  const { url } = running();
  const { connect, migrate } = await import('../../server/database/database');
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
