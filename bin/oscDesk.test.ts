import { spawn } from 'node:child_process';
import { createSocket } from 'node:dgram';
import { randomUUID } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startServer, type TestServer } from '../server/testing/testServer';

const zonula = fileURLToPath(new URL('./zonula', import.meta.url));
let server: TestServer;
let port: number;
beforeAll(async () => {
  server = await startServer();
  port = await new Promise<number>((done) => {
    const probe = createSocket('udp4');
    probe.bind(0, '127.0.0.1', () => {
      const free = probe.address().port;
      probe.close(() => done(free));
    });
  });
});
afterAll(() => server.close());

it('a desk of faders in the terminal moves the session by real packets, and ends as it should', async () => {
  const { body } = await server.ask('POST', '/sessions', {
    name: `Desk ${randomUUID()}`,
    sampleRate: 48_000,
  });
  const put = await server.ask('PUT', '/osc', { on: true, port });
  expect(put.status).toBe(200);
  const desk = spawn(zonula, ['osc-desk', '--port', String(port)], { stdio: ['pipe', 'pipe', 'pipe'] });
  let out = '';
  desk.stdout.on('data', (piece: Buffer) => (out += piece.toString()));
  const ended = new Promise<number | null>((done) => desk.on('exit', done));
  const controllers = async () =>
    (await server.ask('GET', '/osc')).body.controllers as { subscribed: boolean }[];
  await expect.poll(async () => (await controllers())[0]?.subscribed).toBe(true);
  // Told what lies under it before anything is pressed.
  await new Promise((done) => setTimeout(done, 1000));
  const main = async () =>
    (await server.ask('GET', `/sessions/${body.id}`)).body.document.strips[0] as {
      faderDb: number;
      mute: boolean;
    };
  const before = await main();
  desk.stdin.write('\x1b[B');
  await new Promise((done) => setTimeout(done, 100));
  desk.stdin.write('m');
  await expect.poll(async () => (await main()).mute).toBe(true);
  await expect.poll(async () => (await main()).faderDb).toBeLessThan(before.faderDb);
  desk.stdin.write('q');
  expect(await ended).toBe(0);
  expect(out).toContain('1 to 1 of 1');
  // It has said that it goes.
  await expect.poll(async () => (await controllers()).some((c) => c.subscribed)).toBe(false);
});

it('says what to do where nothing answers, and what a port is', async () => {
  const run = (...args: string[]) =>
    new Promise<{ code: number | null; out: string }>((done) => {
      const desk = spawn(zonula, ['osc-desk', ...args], { stdio: ['pipe', 'pipe', 'pipe'] });
      let out = '';
      for (const stream of [desk.stdout, desk.stderr])
        stream.on('data', (piece: Buffer) => (out += piece.toString()));
      desk.stdin.end();
      desk.on('exit', (code) => done({ code, out }));
    });
  const alone = await run('--port', '9');
  expect(alone).toMatchObject({ code: 0 });
  expect(alone.out).toMatch(/OSC switched on/);
  expect(await run('--port', 'loud')).toMatchObject({ code: 2 });
});
