import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { open, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Runs one of PostgreSQL's own programs on a database. @throws Error with what it said */
async function run(program: string, args: readonly string[], url: string): Promise<string> {
  const { hostname, port, username, password, pathname } = new URL(url);
  const { postgresBinaries } = await import('../scripts/debian.mjs');
  const beside = join(postgresBinaries() ?? '', program);
  const child = spawn(existsSync(beside) ? beside : program, [...args], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env: {
      ...process.env,
      // A password among the arguments would be seen by everybody on the machine.
      PGHOST: hostname,
      PGPORT: port || '5432',
      PGUSER: decodeURIComponent(username),
      PGPASSWORD: decodeURIComponent(password),
      PGDATABASE: decodeURIComponent(pathname.slice(1)),
    },
  });
  let said = '';
  let out = '';
  child.stdout.on('data', (piece: Buffer) => (out += piece.toString()));
  child.stderr.on('data', (piece: Buffer) => (said += piece.toString()));
  const code = await new Promise<number | null>((done, fail) => {
    child.once('error', (error: NodeJS.ErrnoException) =>
      fail(
        error.code === 'ENOENT'
          ? new Error(`\`${program}\` was not found. Install it: apt-get install postgresql-client`)
          : error,
      ),
    );
    child.once('close', done);
  });
  if (code !== 0) throw new Error(said.trim() || `${program} ended with ${code}.`);
  return out;
}

/**
 * Writes everything that a database holds into one file: sessions, histories, stems, presets, profiles. It is PostgreSQL's own
 * archive, of one moment (PostgreSQL 15, pg_dump: a consistent snapshot, which blocks no reader and no writer). The file is there
 * whole, or not at all.
 * @returns its size in bytes
 */
export async function backup(url: string, file: string): Promise<number> {
  const part = `${file}.part`;
  try {
    await run('pg_dump', ['--format=custom', '--compress=1', '--no-owner', '--file', part], url);
    const written = await open(part, 'r');
    await written.sync();
    await written.close();
    await rename(part, file);
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
  return (await stat(file)).size;
}

/**
 * Puts everything back as it was when a backup was written, in one transaction: a file that is damaged changes nothing. What is in
 * the database goes.
 * @throws Error with what is wrong with the file
 */
export async function restore(url: string, file: string): Promise<void> {
  if (!existsSync(file)) throw new Error(`There is no file ${file}.`);
  const list = await run('pg_restore', ['--list', file], url).catch(() => '');
  if (!/TABLE DATA public session_changes/.test(list) || !/TABLE DATA public stem_chunks/.test(list))
    throw new Error(`${file} is no backup of Zonula, or is damaged. Nothing was changed.`);
  await run(
    'pg_restore',
    ['--single-transaction', '--clean', '--if-exists', '--no-owner', '--dbname', '', file],
    url,
  ).catch((error: Error) => {
    throw new Error(`${file} could not be restored; nothing was changed.\n${error.message}`, {
      cause: error,
    });
  });
}
