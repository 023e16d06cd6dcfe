// npm start: installs what is missing, builds what is stale, starts the database and the server. One instance a data folder.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const at = (...p) => join(root, ...p);
const data = process.env.ZONULA_DATA ?? at('.data');

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19)) {
  console.error(`Zonula needs Node 20.19 or later; this is ${process.versions.node}.`);
  process.exit(1);
}

/** Installs the npm packages when they are missing or not those of the lockfile. */
export function installPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(at('package-lock.json')))
    .digest('hex');
  const stamp = at('node_modules', '.zonula-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  console.log('Installing packages …');
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  if (done.status !== 0) {
    console.error('The packages could not be installed. Is the network there? Try: npm ci');
    process.exit(1);
  }
  writeFileSync(stamp, lock);
}

const fail = (message) => {
  console.error(message);
  process.exit(1);
};

/** What a running instance says of itself: its port, processes and database. */
const RUNNING = join(data, 'running.json');
function running() {
  try {
    return JSON.parse(readFileSync(RUNNING, 'utf8'));
  } catch {
    return null;
  }
}
function alive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === 'EPERM';
  }
}

/** Seconds for which a start waits for one that is ending, or has not yet said where it is. */
const PATIENCE = 20;

/** Takes the lock of a data folder, or says where the instance is that has it, and ends. Nothing is changed then. */
async function alone(takeLock, file) {
  for (let waited = 0; ; waited += 0.2) {
    const lock = takeLock(file);
    if (lock !== null) return lock;
    const other = running();
    if (other && alive(other.pid))
      fail(
        `Zonula runs on this data already: http://${other.host ?? '127.0.0.1'}:${other.port} (process ${other.pid}). Nothing was changed.\n` +
          `Open it there, or stop it with: kill ${other.pid}. For another copy with data of its own: ZONULA_DATA=FOLDER npm start`,
      );
    if (waited >= PATIENCE)
      fail(
        `Another process holds ${file}, and does not say where it is. Nothing was changed.\n` +
          `What it is: fuser -v ${file}`,
      );
    await new Promise((done) => setTimeout(done, 200));
  }
}

async function start() {
  const { values: options } = (() => {
    try {
      return parseArgs({ options: { 'new-password': { type: 'boolean' } } });
    } catch (error) {
      return fail(`${error.message}\nUsage: npm start [-- --new-password]`);
    }
  })();
  mkdirSync(data, { recursive: true });
  const { takeLock } = await import('./lock.mjs');
  const locks = [await alone(takeLock, join(data, 'zonula.lock'))];
  const stopping = [];
  let ending = null;
  const end = (code) =>
    (ending ??= (async () => {
      // Who starts next waits for the lock, and is not told of what has ended.
      rmSync(RUNNING, { force: true });
      for (const stop of stopping.reverse()) await stop();
      process.exit(code);
    })());
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void end(0));

  installPackages();
  const { buildEngine, buildPage } = await import('./build.mjs');
  buildEngine();
  buildPage();

  const { startPostgres, freePort, portIsFree } = await import('./postgres.mjs');
  const host = process.env.ZONULA_HOST || '127.0.0.1';
  let port = process.env.PORT;
  if (port && !(await portIsFree(Number(port), host)))
    fail(`Port ${port} is taken. Stop what uses it, or choose another: PORT=${Number(port) + 1} npm start`);
  if (!port) port = String((await portIsFree(4810, host)) ? 4810 : await freePort());

  let url = process.env.DATABASE_URL;
  let cluster = '';
  if (!url) {
    try {
      const { locateCluster, newPassword } = await import('./cluster.mjs');
      const place = locateCluster(data);
      // A data folder that was copied names the database of the first: it is that one's as long as it runs.
      locks.push(await alone(takeLock, `${place.cluster}.lock`));
      if (options['new-password']) {
        newPassword(place);
        console.log('The database has a new password; what is in it is as it was.');
      }
      const database = await startPostgres(data);
      stopping.push(() => database.stop());
      url = database.url;
      cluster = database.cluster;
    } catch (error) {
      fail(error.message);
    }
  }
  // The server has the locks too: they last until both have ended. By its channel it learns that this process is gone.
  const server = spawn(process.execPath, ['--import', 'tsx', at('server', 'main.ts')], {
    cwd: root,
    stdio: ['inherit', 'inherit', 'inherit', 'ipc', ...locks],
    env: { ...process.env, DATABASE_URL: url, PORT: port, ZONULA_DATA: data, ZONULA_CLUSTER: cluster },
    // Ctrl+C reaches this process alone; the server is told by it, and the database stops after it.
    detached: true,
  });
  const over = new Promise((done) => server.once('exit', (code, signal) => done({ code, signal })));
  stopping.push(async () => {
    if (server.exitCode === null && server.signalCode === null) server.kill('SIGTERM');
    await over;
  });
  // What the command line needs to find this server's database.
  writeFileSync(
    RUNNING,
    JSON.stringify({ url, cluster, host, port: Number(port), pid: process.pid, server: server.pid }),
    { mode: 0o600 },
  );
  const { code, signal } = await over;
  await end(code ?? (signal === 'SIGKILL' ? 137 : 1));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await start();
