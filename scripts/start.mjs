// npm start: installs what is missing, builds what is stale, starts the database and the server.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

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

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  installPackages();
  const { buildEngine, buildPage } = await import('./build.mjs');
  buildEngine();
  buildPage();
  mkdirSync(data, { recursive: true });

  let database = null;
  let url = process.env.DATABASE_URL;
  const { startPostgres, freePort, portIsFree } = await import('./postgres.mjs');
  if (!url) {
    database = await startPostgres(data).catch((error) => {
      console.error(error.message);
      process.exit(1);
    });
    url = database.url;
  }
  let port = process.env.PORT;
  if (!port) port = String((await portIsFree(4810)) ? 4810 : await freePort());
  const server = spawn(process.execPath, ['--import', 'tsx', at('server', 'main.ts')], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, DATABASE_URL: url, PORT: port, ZONULA_DATA: data },
    // Ctrl+C reaches this process alone; the server is told by it, and the database stops after it.
    detached: true,
  });
  // What the command line needs to find this server's database.
  writeFileSync(
    join(data, 'running.json'),
    JSON.stringify({ url, port: Number(port), pid: process.pid, server: server.pid }),
    {
      mode: 0o600,
    },
  );
  const stop = (signal) => () => {
    if (server.exitCode === null) server.kill(signal);
  };
  process.on('SIGINT', stop('SIGINT'));
  process.on('SIGTERM', stop('SIGTERM'));
  process.on('SIGHUP', stop('SIGTERM'));
  server.on('exit', (code, signal) => {
    database?.stop();
    process.exit(code ?? (signal === 'SIGKILL' ? 137 : 1));
  });
}
