import { randomUUID } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Postgres } from '../../scripts/postgres.mjs';
import { createApp } from '../app';
import { connect, migrate } from './database';

const data = mkdtempSync(join(tmpdir(), 'zonula-outage-'));
let database: Postgres;
let ask: (method: string, path: string, body?: unknown) => Promise<{ status: number; body: any }>;
let end: () => Promise<void>;
beforeAll(async () => {
  const { startPostgres } = await import('../../scripts/postgres.mjs');
  chmodSync(data, 0o755);
  database = await startPostgres(data, { quiet: true });
  const sequelize = connect(database.url);
  await migrate(sequelize);
  const { http, live } = createApp({ sequelize });
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  const base = `http://127.0.0.1:${(http.address() as AddressInfo).port}/api`;
  ask = async (method, path, body) => {
    const r = await fetch(base + path, {
      method,
      headers: { 'Content-Type': 'application/json' },
      body: body ? JSON.stringify(body) : undefined,
    });
    return { status: r.status, body: await r.json() };
  };
  end = async () => {
    await live.close();
    http.closeAllConnections();
    await sequelize.close();
  };
});
afterAll(async () => {
  await end();
  await database.stop();
  rmSync(data, { recursive: true, force: true });
});

const commit = (id: string, revision: number, name: string, changeId: string) =>
  ask('POST', `/sessions/${id}/commits`, {
    revision,
    changeId,
    label: 'x',
    commands: [{ type: 'strip.set', id: 'main', patch: { name } }],
  });

it('when the database stops in the middle, edits are refused as "come again", nothing is half kept, and all works when it is back', async () => {
  const { id } = (await ask('POST', '/sessions', { name: 'Outage' })).body;
  expect((await commit(id, 0, 'One', randomUUID())).status).toBe(200);
  await database.stop();
  const lost = randomUUID();
  for (const answer of [
    await commit(id, 1, 'Two', lost),
    await ask('GET', '/health'),
    await ask('GET', '/sessions'),
  ]) {
    expect(answer.status).toBe(503);
    expect(answer.body.error.code).toBe('database');
  }
  await database.start();
  const again = await commit(id, 1, 'Two', lost);
  expect(again.status).toBe(200);
  expect(again.body.change.revision).toBe(2);
  expect((await ask('GET', `/sessions/${id}`)).body.document.strips[0].name).toBe('Two');
});

// PostgreSQL 15, 30.1 "Reliability": what was acknowledged is there after a crash of the server.
it('when the database is killed, it is started again by itself, with everything that was acknowledged', async () => {
  const { id } = (await ask('POST', '/sessions', { name: 'Killed' })).body;
  for (const [revision, name] of ['One', 'Two', 'Three'].entries()) {
    expect((await commit(id, revision, name, randomUUID())).status).toBe(200);
    const before = database.pid()!;
    process.kill(before, 'SIGKILL');
    // Whatever is asked while it goes down and comes back is answered, or told to come again.
    for (let n = 0; n < 40; n++) {
      const answers = await Promise.all([
        ask('GET', '/sessions'),
        ask('GET', `/sessions/${id}/state`),
        ask('GET', '/presets'),
        ask('POST', '/sessions', { name: 'Meanwhile' }),
      ]);
      for (const { status } of answers) expect([200, 201, 503]).toContain(status);
    }
    await expect
      .poll(() => database.pid() !== null && database.pid() !== before, { timeout: 60_000 })
      .toBe(true);
    await expect.poll(async () => (await ask('GET', '/health')).status, { timeout: 60_000 }).toBe(200);
    const { revision: kept, document } = (await ask('GET', `/sessions/${id}`)).body;
    expect([kept, document.strips[0].name]).toEqual([revision + 1, name]);
  }
});
