import { randomUUID } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { createApp } from '../app';
import { connect, migrate } from './database';

interface Cluster {
  readonly url: string;
  stop(): void;
  restart(): void;
}

it('when the database stops in the middle, edits are refused as "come again", nothing is half kept, and all works when it is back', async () => {
  const { startPostgres } = (await import('../../scripts/postgres.mjs' as string)) as {
    startPostgres(d: string, o: { quiet: boolean }): Promise<Cluster>;
  };
  const data = mkdtempSync(join(tmpdir(), 'zonula-outage-'));
  chmodSync(data, 0o755);
  const cluster = await startPostgres(data, { quiet: true });
  const sequelize = connect(cluster.url);
  await migrate(sequelize);
  const { http, live } = createApp({ sequelize });
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  const base = `http://127.0.0.1:${(http.address() as AddressInfo).port}/api`;
  const ask = async (method: string, path: string, body?: unknown) => {
    const r = await fetch(base + path, {
      method,
      headers: { 'Content-Type': 'application/json' },
      body: body ? JSON.stringify(body) : undefined,
    });
    return { status: r.status, body: (await r.json()) as any };
  };
  try {
    const { id } = (await ask('POST', '/sessions', { name: 'Outage' })).body;
    const commit = (revision: number, name: string, changeId: string) =>
      ask('POST', `/sessions/${id}/commits`, {
        revision,
        changeId,
        label: 'x',
        commands: [{ type: 'strip.set', id: 'main', patch: { name } }],
      });
    expect((await commit(0, 'One', randomUUID())).status).toBe(200);
    cluster.stop();
    const lost = randomUUID();
    for (const answer of [
      await commit(1, 'Two', lost),
      await ask('GET', '/health'),
      await ask('GET', '/sessions'),
    ]) {
      expect(answer.status).toBe(503);
      expect(answer.body.error.code).toBe('database');
    }
    cluster.restart();
    const again = await commit(1, 'Two', lost);
    expect(again.status).toBe(200);
    expect(again.body.change.revision).toBe(2);
    expect((await ask('GET', `/sessions/${id}`)).body.document.strips[0].name).toBe('Two');
  } finally {
    await live.close();
    http.closeAllConnections();
    await sequelize.close();
    cluster.stop();
    rmSync(data, { recursive: true, force: true });
  }
});
