import { execFileSync, spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Postgres } from '../../scripts/postgres.mjs';
import { newStrip } from '../../core/session/defaults';
import { createApp } from '../app';
import { connect, migrate } from '../database/database';
import { examine } from '../doctor';
import { toneFile } from '../testing/wav';

/** A disk of its own, which can be filled: only root may make one. */
const disk = mkdtempSync(join(tmpdir(), 'zonula-disk-'));
const mounted =
  process.getuid?.() === 0 &&
  spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=700m,mode=755', 'tmpfs', disk]).status === 0;
const filler = join(disk, 'filler');
const free = () => {
  const { bavail, bsize } = statfsSync(disk);
  return bavail * bsize;
};
/** Fills the disk until so many bytes are free. */
function fill(left: number) {
  rmSync(filler, { force: true });
  const size = Math.max(0, free() - left);
  try {
    execFileSync('fallocate', ['-l', String(size), filler], { stdio: 'ignore' });
  } catch {
    writeFileSync(filler, Buffer.alloc(Math.max(0, free() - left)));
  }
}
const empty = () => rmSync(filler, { force: true });

describe.runIf(mounted)('a full disk', () => {
  let database: Postgres;
  let app: ReturnType<typeof createApp>;
  let sequelize: ReturnType<typeof connect>;
  const ask = async (method: string, path: string, body?: unknown) => {
    const raw = body instanceof Uint8Array;
    const { port } = app.http.address() as AddressInfo;
    const r = await fetch(`http://127.0.0.1:${port}/api${path}`, {
      method,
      headers: { 'Content-Type': raw ? 'application/octet-stream' : 'application/json' },
      body: raw ? (body as Uint8Array<ArrayBuffer>) : body ? JSON.stringify(body) : undefined,
    });
    const text = await r.text();
    return { status: r.status, body: text.startsWith('{') ? JSON.parse(text) : text };
  };
  const commit = (id: string, revision: number, n: number) =>
    ask('POST', `/sessions/${id}/commits`, {
      revision,
      changeId: randomUUID(),
      label: `edit ${n}`,
      commands: [{ type: 'strip.set', id: 'main', patch: { name: `${n} ${'x'.repeat(180)}` } }],
    });
  /** Serves with or without knowing where the database's disk is. */
  async function serve(known: boolean) {
    if (app) {
      await app.live.close();
      await app.maintenance.close();
      app.http.closeAllConnections();
      await sequelize.close();
    }
    sequelize = connect(database.url);
    app = createApp({ sequelize, spool: join(disk, 'spool'), disk: known ? disk : undefined });
    await new Promise<void>((done) => app.http.listen(0, '127.0.0.1', done));
  }

  beforeAll(async () => {
    const { startPostgres } = await import('../../scripts/postgres.mjs');
    chmodSync(disk, 0o755);
    database = await startPostgres(disk, { quiet: true });
    const first = connect(database.url);
    await migrate(first);
    await first.close();
  });
  afterAll(async () => {
    empty();
    await app.live.close();
    await app.maintenance.close();
    app.http.closeAllConnections();
    await sequelize.close();
    await database.stop();
    spawnSync('umount', ['-l', disk]);
    rmSync(disk, { recursive: true, force: true });
  });

  it.each([
    ['whose state is looked at before', true],
    ['that the database meets', false],
  ])(
    '%s: edits and files are refused with a clear word, playing goes on, nothing is damaged, and it goes on',
    async (_how, known) => {
      empty();
      await serve(known);
      const id = (await ask('POST', '/sessions', { name: 'Full' })).body.id as string;
      const tone = toneFile(400_000, 1, 48000, known ? 501 : 502);
      const { stem } = (await ask('POST', '/stems?name=a.wav&rate=48000', tone)).body;
      const strip = newStrip({ id: 'a', kind: 'source', name: 'A', stem, out: { to: 'main', on: true } });
      let revision = (
        await ask('POST', `/sessions/${id}/commits`, {
          revision: 0,
          changeId: randomUUID(),
          label: 'x',
          commands: [{ type: 'strip.add', at: 0, strip }],
        })
      ).body.change.revision as number;

      fill(known ? 30 * 2 ** 20 : 0);
      const answers = new Set<string>();
      let refused = 0;
      for (let n = 0; n < 3000 && refused < 3; n++) {
        const { status, body } = await commit(id, revision, n);
        if (status === 200) {
          revision = body.change.revision;
          continue;
        }
        refused++;
        answers.add(`${status} ${body.error.code}`);
        // Where it met the end of the disk while writing its log, the database starts anew.
        await new Promise((r) => setTimeout(r, 300));
      }
      expect(refused).toBe(3);
      for (const answer of answers)
        expect(known ? ['507 room'] : ['507 room', '503 database']).toContain(answer);
      const upload = await ask('POST', '/stems?name=b.wav&rate=48000', toneFile(48000, 1, 48000, 503));
      expect(upload.status).toBe(507);
      expect(upload.body.error.message).toMatch(/disk is full.*make room, and it goes on by itself/);
      if (known) {
        const pcm = await ask('GET', `/stems/${stem}/pcm?start=0&frames=1000`);
        expect(pcm.status).toBe(200);
      }

      empty();
      await expect
        .poll(async () => (await ask('GET', `/sessions/${id}`)).status, { timeout: 60_000 })
        .toBe(200);
      // Everything that was acknowledged is there, and nothing else.
      expect((await ask('GET', `/sessions/${id}`)).body.revision).toBe(revision);
      expect((await commit(id, revision, 9999)).status).toBe(200);
      expect((await ask('POST', '/stems?name=b.wav&rate=48000', toneFile(48000, 1, 48000, 503))).status).toBe(
        201,
      );
      for await (const problem of examine({ sequelize, repair: false, disk: null }))
        expect(problem).toBeNull();
    },
  );
});
