// npm run soak -- MINUTES: the application under everything that goes wrong: windows that edit one session through the page's own
// code, processes that are killed, uploads that stand still, floods, messages that are none, a disk that stands still. It ends by
// itself, speaks to loopback alone, and says what it did and what was lost.
import { fork, spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { fileURLToPath, pathToFileURL } from 'node:url';
import pg from 'pg';
import { newStrip } from '../../core/session/defaults';
import { connect } from '../../server/database/database';
import { examine } from '../../server/doctor';
import { toneFile } from '../../server/testing/wav';
import { freePort } from '../postgres.mjs';
import { flood, halfOpenUploads, malformedMessages, malformedRequests } from './attacks';
import type { WindowEnd, WindowTask } from './window';

export interface SoakReport {
  readonly seconds: number;
  readonly windows: number;
  readonly edits: number;
  readonly acknowledged: number;
  /** Edits that no longer fitted on what others did, each of which its window was told of. */
  readonly setAside: number;
  readonly stems: number;
  readonly done: Readonly<Record<string, number>>;
  readonly revision: number;
  /** What must be none. */
  readonly lost: {
    readonly acknowledgedEdits: number;
    readonly editsWithoutAWord: number;
    readonly stems: number;
    readonly windowsThatDiffer: number;
    readonly problemsOfTheDoctor: readonly string[];
  };
}

const WINDOWS = 8;
const root = fileURLToPath(new URL('../..', import.meta.url));
const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

interface Running {
  readonly url: string;
  readonly port: number;
  readonly pid: number;
  readonly server: number;
}

export async function soak(minutes: number, say: (line: string) => void = () => {}): Promise<SoakReport> {
  const data = mkdtempSync(join(tmpdir(), 'zonula-soak-'));
  chmodSync(data, 0o755);
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  const done: Record<string, number> = {};
  const count = (what: string, by = 1) => (done[what] = (done[what] ?? 0) + by);
  let launcher: ChildProcess | null = null;
  const running = () => JSON.parse(readFileSync(join(data, 'running.json'), 'utf8')) as Running;

  async function start(): Promise<void> {
    const child = spawn(process.execPath, [join(root, 'scripts', 'start.mjs')], {
      env: { ...process.env, ZONULA_DATA: data, PORT: String(port), DATABASE_URL: '', ZONULA_DEMO: 'no' },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    launcher = child;
    let said = '';
    await new Promise<void>((ready, fail) => {
      const hear = (piece: Buffer) => {
        said += piece.toString();
        if (said.includes('Zonula is ready')) ready();
      };
      child.stdout.on('data', hear);
      child.stderr.on('data', hear);
      child.once('exit', (code) => fail(new Error(`It did not start (${code}):\n${said}`)));
    });
  }
  const ended = async () => {
    if (launcher && launcher.exitCode === null && launcher.signalCode === null)
      await new Promise((over) => launcher!.once('exit', over));
  };
  const ask = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
    const raw = body instanceof Uint8Array;
    const answer = await fetch(`${base}/api${path}`, {
      method,
      headers: { 'Content-Type': raw ? 'application/octet-stream' : 'application/json' },
      body: raw ? (body as Uint8Array<ArrayBuffer>) : body ? JSON.stringify(body) : undefined,
    });
    if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`);
    return (await answer.json()) as T;
  };

  say('Starting …');
  await start();
  const { id: session } = await ask<{ id: string }>('POST', '/sessions', { name: 'Soak' });
  await ask('POST', `/sessions/${session}/commits`, {
    revision: 0,
    changeId: '00000000-0000-4000-8000-000000000000',
    label: 'strips',
    commands: Array.from({ length: 20 }, (_, n) => ({
      type: 'strip.add',
      at: 0,
      strip: newStrip({ id: `s${n}`, kind: 'source', name: `S ${n}`, out: { to: 'main', on: true } }),
    })),
  });

  // — windows —
  let seed = 1;
  const log = (n: number) => join(data, `window-${n}.log`);
  const storage = (n: number) => join(data, `window-${n}.storage`);
  function open(n: number, more: Partial<WindowTask> = {}): ChildProcess {
    const task: WindowTask = {
      base,
      session,
      storage: storage(n),
      log: log(n),
      seed: seed++,
      pace: 300,
      ahead: 0,
      ...more,
    };
    return fork(join(root, 'scripts', 'soak', 'window.ts'), [JSON.stringify(task)], {
      execArgv: ['--import', pathToFileURL(join(root, 'node_modules', 'tsx', 'dist', 'loader.mjs')).href],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
  }
  const windows = Array.from({ length: WINDOWS }, (_, n) => open(n));
  const finish = (child: ChildProcess) =>
    new Promise<WindowEnd>((over, fail) => {
      child.once('message', (end) => over(end as WindowEnd));
      child.once('exit', (code) => fail(new Error(`A window ended with ${code}.`)));
      child.send('stop');
    });

  // — stems, each of which is acknowledged or not —
  const stems = new Set<string>();
  let hertz = 100;
  const bring = () =>
    ask<{ stem: string }>(
      'POST',
      '/stems?name=soak.wav&rate=48000',
      toneFile(60_000, 1, 48000, hertz++),
    ).then(
      ({ stem }) => void stems.add(stem),
      () => {},
    );

  // — what goes wrong, in turn —
  const backends = () =>
    readdirSync('/proc').filter((p) => {
      try {
        return (
          /^\d+$/.test(p) &&
          /^postgres: zonula/.test(readFileSync(`/proc/${p}/cmdline`, 'utf8').replaceAll('\0', ' '))
        );
      } catch {
        return false;
      }
    });
  const letGo: (() => void)[] = [];
  const trouble: [string, () => Promise<unknown>][] = [
    ['half-open uploads', async () => letGo.push(halfOpenUploads(port, 15))],
    ['malformed messages', async () => count('messages that are none', await malformedMessages(base))],
    ['server killed', async () => (process.kill(running().server, 'SIGKILL'), await ended(), await start())],
    ['flood', async () => count('messages of floods', await flood(base, session, 3000))],
    [
      'window killed',
      async () => {
        const n = Math.floor(Math.random() * WINDOWS);
        windows[n]!.kill('SIGKILL');
        windows[n] = open(n);
      },
    ],
    [
      'database killed',
      async () => {
        const { cluster } = JSON.parse(readFileSync(join(data, 'database.json'), 'utf8')) as {
          cluster: string;
        };
        process.kill(Number(readFileSync(join(cluster, 'postmaster.pid'), 'utf8').split('\n')[0]), 'SIGKILL');
        await rest(1500);
      },
    ],
    [
      'disk that stands still',
      async () => {
        const held = backends();
        for (const p of held) process.kill(Number(p), 'SIGSTOP');
        await rest(1500);
        for (const p of held)
          try {
            process.kill(Number(p), 'SIGCONT');
          } catch {
            // It has ended meanwhile.
          }
      },
    ],
    [
      'requests that are none',
      async () => count('requests that are none, one by one', await malformedRequests(base, session)),
    ],
    ['launcher killed', async () => (launcher!.kill('SIGKILL'), await ended(), await start())],
    ['sockets cut', async () => letGo.splice(0).forEach((end) => end())],
  ];
  const begun = Date.now();
  const until = begun + minutes * 60_000;
  // On a slow machine a short run goes on until everything has gone wrong once.
  const last = until + 240_000;
  const missing = () => trouble.some(([what]) => !done[what]);
  for (let turn = 0; Date.now() < until || (missing() && Date.now() < last); turn++) {
    const [what, make] = trouble[turn % trouble.length]!;
    await Promise.all([bring(), bring(), rest(1200)]);
    try {
      await make();
      count(what);
    } catch (error) {
      // The server was away for it: that is no loss.
      count(`${what}, while it was away`);
      if (!launcher || (launcher as ChildProcess).exitCode !== null) {
        say(`${what}: ${(error as Error).message}`);
        await start();
      }
    }
    say(`${Math.round((Date.now() - begun) / 1000)} s: ${what}`);
  }

  // — the end: all is sent, and compared —
  say('Ending …');
  letGo.splice(0).forEach((end) => end());
  const ends = await Promise.all(windows.map(finish));
  // What killed windows had not sent is sent by the next that is opened in the same browser.
  const later = await Promise.all(
    Array.from({ length: WINDOWS }, (_, n) => finish(open(n, { pace: 0, ahead: 3600_000 }))),
  );
  const state = await ask<{ revision: number; document: unknown }>('GET', `/sessions/${session}/state`);
  const client = new pg.Client(running().url);
  await client.connect();
  const { rows } = await client.query<{ id: string }>(
    'SELECT change_id AS id FROM session_changes WHERE session_id = $1',
    [session],
  );
  const there = new Set(rows.map((r) => r.id));
  const found = await client.query<{ sha256: string }>('SELECT sha256 FROM stems');
  const stored = new Set(found.rows.map((r) => `sha256:${r.sha256.trim()}`));
  await client.end();
  const lines = Array.from({ length: WINDOWS }, (_, n) =>
    existsSync(log(n)) ? readFileSync(log(n), 'utf8').split('\n') : [],
  ).flat();
  const ids = (what: string) => [...new Set(lines.filter((l) => l.startsWith(what)).map((l) => l.slice(5)))];
  const aside = new Set([...ends, ...later].flatMap((e) => e.aside));
  const made = ids('made');
  const kept = ids('kept');
  // Windows that were opened last tell of the others' last edits too.
  const final = await Promise.all(Array.from({ length: 2 }, (_, n) => finish(open(n, { pace: 0 }))));
  const sequelize = connect(running().url);
  const problems: string[] = [];
  for await (const p of examine({ sequelize, repair: false, disk: null })) problems.push(p.what);
  await sequelize.close();
  (launcher as ChildProcess | null)?.kill('SIGINT');
  await ended();
  rmSync(data, { recursive: true, force: true });
  return {
    seconds: Math.round((Date.now() - begun) / 1000),
    windows: WINDOWS,
    edits: made.length,
    acknowledged: kept.length,
    setAside: aside.size,
    stems: stems.size,
    done,
    revision: state.revision,
    lost: {
      acknowledgedEdits: kept.filter((id) => !there.has(id)).length,
      editsWithoutAWord: made.filter((id) => !there.has(id) && !aside.has(id)).length,
      stems: [...stems].filter((s) => !stored.has(s)).length,
      windowsThatDiffer:
        [...later, ...final].filter((e) => e.unsent > 0).length +
        final.filter((e) => !isDeepStrictEqual(e.document, state.document)).length,
      problemsOfTheDoctor: problems,
    },
  };
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const minutes = Number(process.argv[2] ?? 10);
  if (!(minutes > 0 && minutes <= 120)) {
    console.error('Say for how many minutes, up to 120: npm run soak -- 10');
    process.exit(2);
  }
  const report = await soak(minutes, (line) => console.error(line));
  console.log(JSON.stringify(report, null, 2));
  const { problemsOfTheDoctor, ...counts } = report.lost;
  process.exit(problemsOfTheDoctor.length || Object.values(counts).some((n) => n > 0) ? 1 : 0);
}
