import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { freePort } from './postgres.mjs';

/**
 * `npm start` as it is run: what it does with data that is there. flock(2): a lock lies on the opened file and goes with the last
 * process that has it open. PostgreSQL 15, 13.3.5: an advisory lock goes with its connection.
 */
let data: string;
const children: ChildProcess[] = [];
beforeEach(() => {
  data = mkdtempSync(join(tmpdir(), 'zonula-start-'));
  chmodSync(data, 0o755);
});
afterEach(async () => {
  for (const child of children.splice(0)) await ended(child, 'SIGINT');
  rmSync(data, { recursive: true, force: true });
});

interface Started {
  readonly child: ChildProcess;
  readonly said: string;
  readonly code: number | null;
}
const script = fileURLToPath(new URL('start.mjs', import.meta.url));

/** @returns when it is ready, or when it has ended with what it said */
async function start(options: { data?: string; port?: number; args?: string[]; url?: string } = {}) {
  const port = options.port ?? (await freePort());
  const child = spawn(process.execPath, [script, ...(options.args ?? [])], {
    env: {
      ...process.env,
      ZONULA_DATA: options.data ?? data,
      PORT: String(port),
      DATABASE_URL: options.url ?? '',
      ZONULA_DEMO: 'no',
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  children.push(child);
  return new Promise<Started & { base: string }>((done) => {
    let said = '';
    const base = `http://127.0.0.1:${port}`;
    const hear = (piece: Buffer) => {
      said += piece.toString();
      if (said.includes(`ready at ${base}`)) done({ child, said, code: null, base });
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('exit', (code) => done({ child, said, code, base }));
  });
}
const exited = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((done) => child.once('exit', () => done()));
async function ended(child: ChildProcess, signal: NodeJS.Signals) {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const over = new Promise((done) => child.once('exit', done));
  child.kill(signal);
  await over;
}
const make = async (base: string, name: string) =>
  (
    await fetch(`${base}/api/sessions`, {
      method: 'POST',
      body: JSON.stringify({ name }),
      headers: { 'Content-Type': 'application/json' },
    })
  ).status;
const names = async (base: string) =>
  ((await (await fetch(`${base}/api/sessions`)).json()) as { sessions: { name: string }[] }).sessions
    .map((s) => s.name)
    .sort();

/** Every file below a folder with its size and, where it is small, what is in it. */
function picture(folder: string): Record<string, string> {
  const all: Record<string, string> = {};
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name);
    if (entry.isFile())
      all[path] = `${statSync(path).size} ${createHash('sha1').update(readFileSync(path)).digest('hex')}`;
  }
  return all;
}

it('a database whose password file is missing or damaged is left as it is, and is whole again with it', async () => {
  const first = await start();
  expect(await make(first.base, 'Kept')).toBe(201);
  await ended(first.child, 'SIGINT');
  const secrets = join(data, 'database.json');
  const away = join(data, 'away.json');
  renameSync(secrets, away);
  for (const damage of [null, '', '{', '{"password":""}', 'null']) {
    if (damage !== null) writeFileSync(secrets, damage);
    const before = picture(data);
    const refused = await start();
    expect(refused.code).toBe(1);
    expect(refused.said).toMatch(/holds a database, and its password is (not there|damaged)/);
    expect(refused.said).toContain('Nothing was changed');
    expect(refused.said).toContain('--new-password');
    expect(picture(data)).toEqual(before);
  }
  renameSync(away, secrets);
  const again = await start();
  expect(await names(again.base)).toEqual(['Kept']);
  await ended(again.child, 'SIGINT');
  // Lost for good: a new password opens it.
  rmSync(secrets);
  const renewed = await start({ args: ['--new-password'] });
  expect(await names(renewed.base)).toEqual(['Kept']);
  await ended(renewed.child, 'SIGINT');
  // Files of the database that are missing: nothing is made in their place.
  const control = join(JSON.parse(readFileSync(secrets, 'utf8')).cluster, 'PG_VERSION');
  const version = readFileSync(control);
  rmSync(control);
  const before = picture(data);
  const odd = await start();
  expect([odd.code, odd.said]).toEqual([
    1,
    expect.stringMatching(/not a whole database[\s\S]*Nothing was changed/),
  ]);
  expect(picture(data)).toEqual(before);
  writeFileSync(control, version);
});

it('a database that is not where it was is not replaced by an empty one', async () => {
  const first = await start();
  await make(first.base, 'Kept');
  await ended(first.child, 'SIGINT');
  const { cluster } = JSON.parse(readFileSync(join(data, 'database.json'), 'utf8')) as { cluster: string };
  renameSync(cluster, `${cluster}.elsewhere`);
  const refused = await start();
  expect([refused.code, refused.said]).toEqual([
    1,
    expect.stringContaining('there is none. Is its disk there?'),
  ]);
  expect(existsSync(cluster)).toBe(false);
  renameSync(`${cluster}.elsewhere`, cluster);
  const again = await start();
  expect(await names(again.base)).toEqual(['Kept']);
});

it('a second start on the same data, on its port or another, says where the first is and changes nothing', async () => {
  const first = await start();
  await make(first.base, 'Kept');
  const running = readFileSync(join(data, 'running.json'), 'utf8');
  const pid = first.child.pid;
  for (const port of [Number(new URL(first.base).port), await freePort()]) {
    const second = await start({ port });
    expect(second.code).toBe(1);
    expect(second.said).toContain(`${first.base} (process ${pid})`);
    expect(readFileSync(join(data, 'running.json'), 'utf8')).toBe(running);
    expect(await make(first.base, 'After')).toBe(201);
  }
  // A folder with data of its own that names the same database.
  const other = mkdtempSync(join(tmpdir(), 'zonula-start-'));
  const third = await start({ data: other, url: (JSON.parse(running) as { url: string }).url });
  expect([third.code, third.said]).toEqual([1, expect.stringContaining('uses this database already')]);
  // A copy of the data folder, made while it runs.
  const copy = `${other}-copy`;
  cpSync(data, copy, { recursive: true });
  chmodSync(copy, 0o755);
  if (
    (JSON.parse(readFileSync(join(data, 'database.json'), 'utf8')) as { cluster: string }).cluster.startsWith(
      data,
    )
  )
    rmSync(join(copy, 'postgres'), { recursive: true });
  const fourth = await start({ data: copy });
  expect([fourth.code, fourth.said]).toEqual([1, expect.stringContaining('runs on this data already')]);
  expect(await names(first.base)).toEqual(['After', 'After', 'Kept']);
  rmSync(other, { recursive: true });
  rmSync(copy, { recursive: true });
});

it('a port that something else uses is told before anything is started', async () => {
  const { createServer } = await import('node:net');
  const busy = createServer().listen(0, '127.0.0.1');
  await new Promise((done) => busy.once('listening', done));
  const { port } = busy.address() as { port: number };
  const refused = await start({ port });
  expect([refused.code, refused.said]).toEqual([1, expect.stringContaining(`Port ${port} is taken`)]);
  expect(existsSync(join(data, 'database.json'))).toBe(false);
  busy.close();
});

it.each([
  [['launcher']],
  [['server']],
  [['database']],
  [['server', 'database']],
  [['launcher', 'server', 'database']],
])(
  'whatever is killed (%j), what was acknowledged is there at the next start, and no lock stands in its way',
  async (what) => {
    const first = await start();
    await make(first.base, 'Kept');
    const { pid, server } = JSON.parse(readFileSync(join(data, 'running.json'), 'utf8')) as {
      pid: number;
      server: number;
    };
    const { cluster } = JSON.parse(readFileSync(join(data, 'database.json'), 'utf8')) as { cluster: string };
    const database = Number(readFileSync(join(cluster, 'postmaster.pid'), 'utf8').split('\n')[0]);
    if (what.includes('launcher')) process.kill(pid, 'SIGKILL');
    if (what.includes('server')) process.kill(server, 'SIGKILL');
    if (what.includes('database')) process.kill(database, 'SIGKILL');
    if (what.length === 1 && what[0] === 'database') {
      // It comes back under the running server.
      const now = () => Number(readFileSync(join(cluster, 'postmaster.pid'), 'utf8').split('\n')[0]);
      await expect
        .poll(() => existsSync(join(cluster, 'postmaster.pid')) && now() !== database, { timeout: 60_000 })
        .toBe(true);
      await expect.poll(() => names(first.base).catch(() => null), { timeout: 60_000 }).toEqual(['Kept']);
      return;
    }
    // Who was left to notice it has a moment to end.
    await exited(first.child);
    const next = await start();
    expect(next.said).toContain('ready');
    expect(await names(next.base)).toEqual(['Kept']);
  },
);
