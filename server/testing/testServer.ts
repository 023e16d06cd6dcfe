import { randomBytes } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { Sequelize } from 'sequelize';
import { createApp, type AppOptions } from '../app';
import { connect, migrate } from '../database/database';

export interface TestServer {
  readonly base: string;
  readonly url: string;
  readonly sequelize: Sequelize;
  ask(
    method: string,
    path: string,
    body?: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; body: any; headers: Headers }>;
  close(): Promise<void>;
}

/** A fresh database on the tests' own PostgreSQL. @returns its address, and a function that removes it */
export async function freshDatabase(): Promise<{ url: string; drop(): Promise<void> }> {
  const given = process.env.ZONULA_TEST_DATABASE;
  if (!given) throw new Error('ZONULA_TEST_DATABASE is not set: run the tests with `npx vitest`.');
  const name = `test_${randomBytes(6).toString('hex')}`;
  const admin = new Sequelize(given, { dialect: 'postgres', logging: false });
  await admin.query(`CREATE DATABASE ${name}`);
  const url = new URL(given);
  url.pathname = `/${name}`;
  return {
    url: url.href,
    async drop() {
      await admin.query(`DROP DATABASE ${name} WITH (FORCE)`);
      await admin.close();
    },
  };
}

/** The real server, on a fresh database and a free loopback port. */
export async function startServer(options: Partial<AppOptions> = {}): Promise<TestServer> {
  const database = await freshDatabase();
  const sequelize = connect(database.url);
  await migrate(sequelize);
  const { http, live, osc, studio } = createApp({ sequelize, version: 'test', ...options });
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  const base = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
  return {
    base,
    url: database.url,
    sequelize,
    async ask(method, path, body, headers = {}) {
      const raw = body instanceof Uint8Array;
      const response = await fetch(`${base}/api${path}`, {
        method,
        headers: {
          ...(body === undefined
            ? {}
            : { 'Content-Type': raw ? 'application/octet-stream' : 'application/json' }),
          ...headers,
        },
        body:
          body === undefined
            ? undefined
            : raw
              ? (body as Uint8Array<ArrayBuffer>)
              : typeof body === 'string'
                ? body
                : JSON.stringify(body),
      });
      const text = await response.text();
      let parsed: unknown = text;
      try {
        parsed = text ? JSON.parse(text) : null;
      } catch {
        // Not every answer is JSON.
      }
      return { status: response.status, body: parsed, headers: response.headers };
    },
    async close() {
      await osc.close();
      await studio?.close();
      const closed = live.close();
      // One that has just been answered is not idle yet, and would be waited for as long as clients keep theirs.
      http.closeAllConnections();
      await closed;
      await sequelize.close();
      await database.drop();
    },
  };
}

/** Speaks to the socket by raw messages, as any program may (Engine.IO protocol 4, by long polling; Socket.IO protocol 5). */
export async function rawSocket(base: string): Promise<{ send(raw: string): Promise<number> }> {
  const at = `${base}/socket/?EIO=4&transport=polling`;
  const opened = await (await fetch(at)).text();
  const { sid } = JSON.parse(opened.slice(1)) as { sid: string };
  const send = async (raw: string) =>
    (
      await fetch(`${at}&sid=${sid}`, {
        method: 'POST',
        body: raw,
        headers: { 'Content-Type': 'text/plain' },
      })
    ).status;
  await send('40');
  await (await fetch(`${at}&sid=${sid}`)).text();
  return { send };
}
