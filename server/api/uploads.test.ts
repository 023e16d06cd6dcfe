import { randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { connect, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { floatWavHeader } from '../../core/formats/audio/wav';
import { PART_BYTES } from '../audio/stemReader';
import { StemChunkRow, StemRow } from '../database/models';
import { Spool } from '../files/spool';
import { log } from '../log';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';

let server: TestServer;
const spool = mkdtempSync(join(tmpdir(), 'zonula-spool-test-'));
beforeAll(async () => {
  server = await startServer({ spool, patience: 1 });
});
afterAll(async () => {
  await server.close();
  rmSync(spool, { recursive: true, force: true });
});

const open: Socket[] = [];
afterEach(() => {
  for (const s of open.splice(0)) s.destroy();
});
const host = () => new URL(server.base).host;

/** One connection on which requests are written by hand, with what comes back. */
async function line(): Promise<{ socket: Socket; until(text: string): Promise<string> }> {
  const { hostname, port } = new URL(server.base);
  const socket = connect(Number(port), hostname);
  socket.on('error', () => {});
  open.push(socket);
  await new Promise((done) => socket.once('connect', done));
  let heard = '';
  let look = () => {};
  socket.on('data', (piece) => {
    heard += piece.toString('latin1');
    look();
  });
  return {
    socket,
    until: (text) =>
      new Promise((done) => {
        look = () => {
          if (!heard.includes(text)) return;
          const all = heard;
          heard = '';
          done(all);
        };
        look();
      }),
  };
}
const post = (path: string, length: number | 'chunked') =>
  `POST /api${path} HTTP/1.1\r\nHost: ${host()}\r\nContent-Type: application/octet-stream\r\n` +
  (length === 'chunked' ? 'Transfer-Encoding: chunked\r\n\r\n' : `Content-Length: ${length}\r\n\r\n`);
const files = () => readdirSync(spool).filter((f) => f !== 'uploads');
const write = (socket: Socket, bytes: Uint8Array | string) =>
  new Promise<void>((done) => void (socket.write(bytes) ? done() : socket.once('drain', done)));

describe('a refused upload', () => {
  // RFC 9112, 9.3: a connection persists when the whole request was read.
  it('is answered at once, while the rest of it still comes, and its connection takes the next file', async () => {
    const { socket, until } = await line();
    const size = 48 * 2 ** 20;
    const good = toneFile(5000, 1, 48000, 511);
    for (const round of [1, 2, 3]) {
      await write(socket, post(`/stems?name=letter${round}.wav&rate=48000`, size));
      await write(socket, 'Dear Sir, this is no sound. '.repeat(500));
      // Not a hundredth of it was sent.
      const answer = await until('}}');
      expect(answer).toMatch(/^HTTP\/1\.1 422/);
      expect(answer).toMatch(new RegExp(`letter${round}\\.wav.*not a WAV file`));
      const rest = Buffer.alloc(2 ** 20, 32);
      let left = size - 28 * 500;
      for (; left > 0; left -= rest.length)
        await write(socket, rest.subarray(0, Math.min(left, rest.length)));
      await write(socket, post('/stems?name=good.wav&rate=48000', good.length));
      await write(socket, good);
      expect(await until('"place":null}]}')).toMatch(/^HTTP\/1\.1 201/);
    }
    expect(files()).toEqual([]);
  });
  it('does not make good files behind it wait, whichever client sends them', async () => {
    const agent = new Agent({ keepAlive: true, maxSockets: 1 });
    const send = (name: string, body: Uint8Array) =>
      new Promise<number>((done, fail) => {
        const sending = request(
          `${server.base}/api/stems?name=${name}&rate=48000`,
          { method: 'POST', agent, headers: { 'Content-Length': body.length } },
          (res) => {
            res.resume();
            res.once('end', () => done(res.statusCode!));
          },
        );
        sending.on('error', fail);
        sending.end(body);
      });
    const begun = Date.now();
    const statuses = await Promise.all([
      send('bad.wav', new Uint8Array(8 * 2 ** 20).fill(65)),
      send('good.wav', toneFile(5000, 1, 48000, 512)),
      send('bad2.wav', new Uint8Array(2 ** 20).fill(66)),
      send('good2.wav', toneFile(5000, 1, 48000, 513)),
    ]);
    expect(statuses).toEqual([422, 201, 422, 201]);
    // It took 76 s, which is how long an idle connection is kept.
    expect(Date.now() - begun).toBeLessThan(40_000);
    agent.destroy();
  });
  it('whose header says that it is too long is refused before its audio comes', async () => {
    const { socket, until } = await line();
    const frames = 48000 * 7201;
    await write(socket, post('/stems?name=endless.wav&rate=48000', 58 + frames * 4));
    await write(socket, floatWavHeader(1, 48000, frames));
    const answer = await until('}}');
    expect(answer).toMatch(/^HTTP\/1\.1 413/);
    expect(answer).toContain('`endless.wav`: it is longer than two hours');
  });
  it('that is larger than any is refused before anything of it comes', async () => {
    const { socket, until } = await line();
    await write(socket, post('/stems?name=large.wav&rate=48000', 2 ** 40));
    expect(await until('}}')).toMatch(/^HTTP\/1\.1 413/);
  });
});

it('an upload whose connection is lost is no failure of the server, and leaves nothing', async () => {
  const told = vi.spyOn(log, 'error').mockImplementation(() => {});
  for (const path of ['/stems?name=lost.wav&rate=48000', '/sessions/import']) {
    const { socket } = await line();
    await write(socket, post(path, 10 ** 7));
    await write(socket, toneFile(50_000).subarray(0, 100_000));
    await expect.poll(files).toHaveLength(1);
    socket.destroy();
    await expect.poll(files).toEqual([]);
  }
  expect((await server.ask('GET', '/health')).status).toBe(200);
  expect(told).not.toHaveBeenCalled();
  told.mockRestore();
});

describe('uploads that stand still', () => {
  it('hold no connection of the database: edits are kept meanwhile', async () => {
    const id = (await server.ask('POST', '/sessions', { name: 'Half open' })).body.id as string;
    const file = toneFile(600_000);
    const lines = await Promise.all(Array.from({ length: 40 }, line));
    for (const [n, { socket }] of lines.entries()) {
      await write(
        socket,
        n % 2
          ? post('/sessions/import', 10 ** 7)
          : post(`/stems?name=half${n}.wav&rate=48000`, n % 4 ? 'chunked' : file.length),
      );
      if (n % 4 === 0) await write(socket, file.subarray(0, 100_000));
    }
    const [{ n }] = (await server.sequelize.query(
      `SELECT count(*)::int AS n FROM pg_stat_activity WHERE datname = current_database() AND state = 'idle in transaction'`,
      { type: 'SELECT' as never },
    )) as unknown as [{ n: number }];
    expect(n).toBe(0);
    for (let revision = 0; revision < 30; revision++)
      expect(
        (
          await server.ask('POST', `/sessions/${id}/commits`, {
            revision,
            changeId: randomUUID(),
            label: 'x',
            commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -revision - 1 } }],
          })
        ).status,
      ).toBe(200);
  });
  it('are ended after a while, and leave nothing; one that comes slowly gets through', async () => {
    const slow = await line();
    const good = toneFile(400, 1, 48000, 514);
    await write(slow.socket, post('/stems?name=slow.wav&rate=48000', good.length));
    const still = await line();
    await write(still.socket, post('/stems?name=still.wav&rate=48000', 1000));
    const ended = new Promise((done) => still.socket.once('close', done));
    let over = false;
    void ended.then(() => (over = true));
    // For several times as long as one may stand still.
    for (let at = 0; at < good.length; at += 150) {
      await write(slow.socket, good.subarray(at, at + 150));
      await new Promise((r) => setTimeout(r, 400));
    }
    expect(await slow.until('}')).toMatch(/^HTTP\/1\.1 201/);
    expect(over).toBe(true);
    await expect.poll(files).toEqual([]);
  });
});

describe('a resumable upload (tus 1.0.0)', () => {
  const tus = (method: string, path: string, headers: Record<string, string> = {}, body?: Uint8Array) =>
    fetch(new URL(path, server.base), {
      method,
      body: body as Uint8Array<ArrayBuffer>,
      headers: { 'Tus-Resumable': '1.0.0', ...headers },
    });
  const begin = async (length: number) => {
    const made = await tus('POST', '/api/uploads', { 'Upload-Length': String(length) });
    expect(made.status).toBe(201);
    return made.headers.get('location')!;
  };
  const patch = (at: string, offset: number, body: Uint8Array) =>
    tus(
      'PATCH',
      at,
      { 'Upload-Offset': String(offset), 'Content-Type': 'application/offset+octet-stream' },
      body,
    );
  const offset = async (at: string) => Number((await tus('HEAD', at)).headers.get('upload-offset'));
  const idOf = (at: string) => at.split('/').at(-1)!;
  const use = (at: string, name = 'tone.wav') =>
    server.ask('POST', `/stems?name=${name}&rate=48000&upload=${idOf(at)}`);

  it('that was cut goes on where it was, and is the same stem as one sent at once', async () => {
    const file = toneFile(300_000, 1, 48000, 333);
    const at = await begin(file.length);
    // A connection that is cut in the middle of its piece.
    const { socket } = await line();
    await write(
      socket,
      `PATCH ${at} HTTP/1.1\r\nHost: ${host()}\r\nTus-Resumable: 1.0.0\r\nUpload-Offset: 0\r\n` +
        `Content-Type: application/offset+octet-stream\r\nContent-Length: ${file.length}\r\n\r\n`,
    );
    await write(socket, file.subarray(0, 400_000));
    await expect.poll(() => offset(at), { timeout: 20_000 }).toBeGreaterThan(0);
    socket.destroy();
    const there = await offset(at);
    expect(there).toBeLessThan(file.length);
    expect((await use(at)).body.error.message).toMatch(/not whole/);
    expect((await patch(at, there, file.subarray(there))).status).toBe(204);
    const stored = await use(at);
    expect(stored.status).toBe(201);
    const once = await server.ask('POST', '/stems?name=same.wav&rate=48000', file);
    expect(once.body.stem).toBe(stored.body.stem);
    // Its file is gone; it can be asked for once.
    expect((await use(at)).status).toBe(404);
    expect(readdirSync(join(spool, 'uploads'))).toEqual([]);
  });
  it('whose file is refused is gone', async () => {
    const at = await begin(2000);
    await patch(at, 0, new Uint8Array(2000).fill(65));
    const refused = await use(at, 'letter.wav');
    expect([refused.status, refused.body.error.message]).toEqual([422, expect.stringMatching(/letter\.wav/)]);
    expect((await tus('HEAD', at)).status).toBe(404);
  });
  it('is refused what it may not do', async () => {
    const at = await begin(1000);
    expect((await patch(at, 500, new Uint8Array(10))).status).toBe(409);
    expect((await tus('POST', '/api/uploads', { 'Upload-Length': String(2 ** 40) })).status).toBe(413);
    expect((await tus('HEAD', '/api/uploads/..%2f..%2fetc%2fpasswd')).status).toBe(404);
    expect((await tus('PATCH', at, { Origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await tus('DELETE', at)).status).toBe(204);
    expect((await tus('HEAD', at)).status).toBe(404);
    expect((await server.ask('GET', '/health')).status).toBe(200);
  });
});

it('what lay in the spool when the server was killed is gone at its start', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zonula-spool-test-'));
  const { writeFileSync } = await import('node:fs');
  writeFileSync(join(folder, 'left'), 'half a stem');
  new Spool(folder);
  expect(existsSync(join(folder, 'left'))).toBe(false);
  rmSync(folder, { recursive: true });
});

describe('what a stem is made of', () => {
  const send = (file: Uint8Array, name = 'x.wav', rate = 48000) =>
    server.ask('POST', `/stems?name=${name}&rate=${rate}`, file);
  it('is converted beside the server, which answers meanwhile', async () => {
    // A rate that has no small ratio to 48 kHz.
    const odd = toneFile(20_000, 1, 383_999);
    let over = false;
    const storing = send(odd).finally(() => (over = true));
    let slowest = 0;
    while (!over) {
      const asked = performance.now();
      await server.ask('GET', '/health');
      slowest = Math.max(slowest, performance.now() - asked);
      await new Promise((r) => setTimeout(r, 10));
    }
    expect((await storing).body.frames).toBe(2500);
    // A file of 244 bytes took 8 s in the server's own thread.
    expect(slowest).toBeLessThan(2500);
    expect((await send(toneFile(46, 1, 383_999))).status).toBe(201);
  });
  it('takes no room where it is silent, and comes back as it was', async () => {
    const frames = 2_000_000;
    const file = new Uint8Array(58 + frames * 4);
    file.set(floatWavHeader(1, 48000, frames));
    const tone = toneFile(48000).subarray(58);
    file.set(tone, 58 + 900_000 * 4);
    const { stem } = (await send(file)).body;
    const row = await StemRow.findOne({ where: { sha256: stem.slice(7) } });
    const chunks = await StemChunkRow.findAll({ where: { stemId: row!.id }, attributes: ['index'] });
    const sounds = [900_000 * 4, 948_000 * 4 - 1].map((at) => Math.floor(at / PART_BYTES));
    expect([Math.min(...chunks.map((c) => c.index)), Math.max(...chunks.map((c) => c.index))]).toEqual(
      sounds,
    );
    const read = async (start: number, count: number) =>
      Buffer.from(
        await (
          await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=${count}`)
        ).arrayBuffer(),
      );
    for (const [start, count] of [
      [0, 1000],
      [899_990, 1000],
      [786_000, 600_000],
      [1_900_000, 200_000],
    ] as const) {
      const end = Math.min(frames, start + count);
      expect(
        (await read(start, count)).equals(Buffer.from(file.subarray(58 + start * 4, 58 + end * 4))),
      ).toBe(true);
    }
  });
});
