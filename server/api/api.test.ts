import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newStrip } from '../../core/session/defaults';
import { ChangeRow, StemChunkRow, StemRow } from '../database/models';
import { PART_BYTES } from '../audio/stemReader';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const make = async (name = 'Test') => (await server.ask('POST', '/sessions', { name })).body.id as string;
const commit = (id: string, revision: number, commands: unknown, changeId: string = randomUUID()) =>
  server.ask('POST', `/sessions/${id}/commits`, { revision, changeId, label: 'test', commands });
const rename = (name: string) => [{ type: 'strip.set', id: 'main', patch: { name } }];

describe('the API', () => {
  it('says that it is well', async () => {
    expect((await server.ask('GET', '/health')).body).toEqual({
      ok: true,
      version: 'test',
      database: 'ready',
    });
  });
  it('gives every error one shape', async () => {
    const answers = await Promise.all([
      server.ask('GET', '/nothing'),
      server.ask('GET', '/sessions/ghost'),
      server.ask('POST', '/sessions', { name: '' }),
      server.ask('POST', '/sessions', '{"name":'),
      server.ask('POST', '/sessions', { name: 'x', colour: 'red' }),
      server.ask('GET', '/stems/sha256:00/pcm?frames=-3'),
    ]);
    expect(answers.map((a) => a.status)).toEqual([404, 404, 400, 400, 400, 400]);
    for (const a of answers)
      expect(a.body).toEqual({
        error: expect.objectContaining({ code: expect.any(String), message: expect.any(String) }),
      });
    expect(answers[4].body.error.message).toContain('colour');
  });
  it('isolates its pages and names no software', async () => {
    const { headers } = await server.ask('GET', '/health');
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect(headers.get('content-security-policy')).toContain("default-src 'self'");
    expect(headers.get('x-powered-by')).toBeNull();
  });
  it('refuses other origins, and other names of the machine (DNS rebinding)', async () => {
    expect(
      (await server.ask('GET', '/sessions', undefined, { Origin: 'http://elsewhere.example' })).status,
    ).toBe(403);
    expect((await server.ask('GET', '/sessions', undefined, { Origin: server.base })).status).toBe(200);
    expect(
      (
        await server.ask('GET', '/sessions', undefined, {
          'Sec-Fetch-Site': 'cross-site',
          'Sec-Fetch-Mode': 'cors',
        })
      ).status,
    ).toBe(403);
    const { request } = await import('node:http');
    const status = await new Promise((done) =>
      request(`${server.base}/api/sessions`, { headers: { Host: 'zonula.example' } }, (r) =>
        done(r.statusCode),
      ).end(),
    );
    expect(status).toBe(403);
  });
  it('refuses a body that is too large', async () => {
    const id = await make();
    const answer = await server.ask('POST', `/sessions/${id}/commits`, {
      revision: 0,
      changeId: randomUUID(),
      label: 'x'.repeat(5_000_000),
      commands: [],
    });
    expect(answer.status).toBe(413);
    expect(answer.body.error.code).toBe('size');
  });
});

describe('sessions', () => {
  it('are listed, last opened first', async () => {
    const a = await make('First');
    const b = await make('Second');
    const names = async () =>
      (await server.ask('GET', '/sessions')).body.sessions
        .filter((s: { id: string }) => s.id === a || s.id === b)
        .map((s: { name: string }) => s.name);
    expect(await names()).toEqual(['Second', 'First']);
    await server.ask('POST', `/sessions/${a}/open`);
    expect(await names()).toEqual(['First', 'Second']);
  });
  it('go with their history when they are deleted', async () => {
    const id = await make('Gone');
    await commit(id, 0, rename('X'));
    expect((await server.ask('DELETE', `/sessions/${id}`)).status).toBe(204);
    expect((await server.ask('GET', `/sessions/${id}`)).status).toBe(404);
    expect((await server.ask('GET', `/sessions/${id}/changes`)).status).toBe(404);
    expect(await ChangeRow.count({ where: { sessionId: id } })).toBe(0);
  });
});

describe('a commit', () => {
  it('is kept with its inverse and its label, and moves the revision by one', async () => {
    const id = await make();
    const answer = await commit(id, 0, rename('Mains'));
    expect(answer.status).toBe(200);
    expect(answer.body.change).toMatchObject({
      revision: 1,
      kind: 'edit',
      label: 'test',
      inverse: rename('Main'),
    });
    const opened = (await server.ask('POST', `/sessions/${id}/open`)).body;
    expect(opened.revision).toBe(1);
    expect(opened.document.strips[0].name).toBe('Mains');
    expect(opened.history).toHaveLength(1);
  });
  it('on an old revision is refused with what it missed', async () => {
    const id = await make();
    await commit(id, 0, rename('One'));
    await commit(id, 1, rename('Two'));
    const stale = await commit(id, 0, rename('Three'));
    expect(stale.status).toBe(409);
    expect(stale.body.error.code).toBe('stale');
    expect(stale.body.error.missed.map((c: { revision: number }) => c.revision)).toEqual([1, 2]);
    expect((await server.ask('GET', `/sessions/${id}`)).body.document.strips[0].name).toBe('Two');
  });
  it('that is sent twice is kept once', async () => {
    const id = await make();
    const changeId = randomUUID();
    await commit(id, 0, rename('Once'), changeId);
    const again = await commit(id, 0, rename('Once'), changeId);
    expect(again.status).toBe(200);
    expect(again.body.change.revision).toBe(1);
    expect((await server.ask('GET', `/sessions/${id}`)).body.revision).toBe(1);
  });
  it('of many at once on one revision lets just one through', async () => {
    const id = await make();
    const answers = await Promise.all(
      Array.from({ length: 12 }, (_, i) => commit(id, 0, rename(`Name ${i}`))),
    );
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(answers.filter((a) => a.status === 409)).toHaveLength(11);
    expect((await server.ask('GET', `/sessions/${id}`)).body.revision).toBe(1);
  });
  it('that breaks a rule is refused whole, by rule and thing', async () => {
    const id = await make();
    const strip = newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } });
    const answer = await commit(id, 0, [
      { type: 'strip.add', strip, at: 0 },
      { type: 'strip.out', id: 'bus', out: { to: 'bus', on: true } },
    ]);
    expect(answer.status).toBe(422);
    expect(answer.body.error).toMatchObject({ code: 'cycle', things: ['bus'] });
    const after = (await server.ask('GET', `/sessions/${id}`)).body;
    expect(after.revision).toBe(0);
    expect(after.document.strips).toHaveLength(1);
  });
  it('that names a stem which is not in the library is refused', async () => {
    const id = await make();
    const strip = newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      stem: `sha256:${'0'.repeat(64)}`,
      out: { to: 'main', on: true },
    });
    const answer = await commit(id, 0, [{ type: 'strip.add', strip, at: 0 }]);
    expect(answer.status).toBe(422);
    expect(answer.body.error.message).toContain('not in the library');
  });
  it.each([
    [[{ type: 'strip.set', id: 'main', patch: { faderDb: 'loud' } }]],
    [[{ type: 'nonsense' }]],
    ['rename it'],
    [[]],
  ])('of %j is not understood', async (commands) => {
    const id = await make();
    const answer = await commit(id, 0, commands);
    expect([400, 422]).toContain(answer.status);
    expect((await server.ask('GET', `/sessions/${id}`)).body.revision).toBe(0);
  });
});

describe('a stem', () => {
  const send = (file: Uint8Array, name = 'tone.wav', rate = 48000) =>
    server.ask('POST', `/stems?name=${encodeURIComponent(name)}&rate=${rate}`, file);
  const counts = async () => [await StemRow.count(), await StemChunkRow.count()];

  it('is stored by its content, once, in parts, and read back by range', async () => {
    // Two whole parts and some of a third.
    const frames = Math.floor((PART_BYTES / 4) * 2.3);
    const file = toneFile(frames);
    const first = await send(file);
    expect(first.status).toBe(201);
    expect(first.body).toMatchObject({ channels: 1, sampleRate: 48000, frames });
    expect(first.body.stem).toMatch(/^sha256:[0-9a-f]{64}$/);
    expect((await send(file, 'same.wav')).body.stem).toBe(first.body.stem);
    const row = await StemRow.findOne({ where: { sha256: first.body.stem.slice(7) } });
    const chunks = await StemChunkRow.findAll({ where: { stemId: row!.id }, order: [['index', 'ASC']] });
    expect(chunks.map((c) => c.data.length)).toEqual([PART_BYTES, PART_BYTES, frames * 4 - 2 * PART_BYTES]);
    const border = PART_BYTES / 4;
    for (const [start, count] of [
      [0, 10],
      [border - 5, 10],
      [border * 2 - 1, 3],
      [frames - 4, 100],
      [frames + 5, 10],
    ] as const) {
      const part = new Uint8Array(
        await (
          await fetch(`${server.base}/api/stems/${first.body.stem}/pcm?start=${start}&frames=${count}`)
        ).arrayBuffer(),
      );
      expect(
        Buffer.from(part).equals(Buffer.from(file.subarray(58 + start * 4, 58 + (start + count) * 4))),
      ).toBe(true);
    }
  });
  it('that comes in several times at once is stored once, and no one is turned away', async () => {
    for (const hertz of [311, 312, 313]) {
      const file = toneFile(9000, 1, 48000, hertz);
      const before = await counts();
      const answers = await Promise.all(['a.wav', 'b.wav', 'c.wav', 'd.wav'].map((n) => send(file, n)));
      expect(answers.map((a) => a.status)).toEqual([201, 201, 201, 201]);
      expect(new Set(answers.map((a) => a.body.stem)).size).toBe(1);
      expect(await counts()).toEqual([before[0]! + 1, before[1]! + Math.ceil(36000 / PART_BYTES)]);
    }
  });
  it('that was swept away meanwhile is missed, and known again when it comes back', async () => {
    const file = toneFile(3000, 1, 48000, 777);
    const { stem } = (await send(file)).body;
    const pcm = () => fetch(`${server.base}/api/stems/${stem}/pcm?start=0&frames=10`);
    expect((await pcm()).status).toBe(200);
    await StemRow.destroy({ where: { sha256: stem.slice(7) } });
    expect((await pcm()).status).toBe(404);
    expect((await send(file)).body.stem).toBe(stem);
    expect((await pcm()).status).toBe(200);
  });
  it('is stored uncompressed, and in the rows themselves (storage EXTERNAL, parts that fit a page)', async () => {
    const [[row]] = (await server.sequelize.query(
      `SELECT attstorage, pg_relation_size(c.reltoastrelid)::int AS beside FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
       WHERE attrelid = 'stem_chunks'::regclass AND attname = 'data'`,
    )) as unknown as [[{ attstorage: string; beside: number }]];
    expect(row).toEqual({ attstorage: 'e', beside: 0 });
  });
  it('of another sample rate is converted on the way in', async () => {
    const answer = await send(toneFile(44100, 2, 44100), 'slow.wav');
    expect(answer.body).toMatchObject({ channels: 2, sampleRate: 48000, frames: 48000 });
  });

  const good = toneFile(2000);
  const changed = (at: number, ...bytes: number[]) => {
    const file = good.slice();
    file.set(bytes, at);
    return file;
  };
  it.each<[string, Uint8Array, RegExp]>([
    ['truncated.wav', good.slice(0, 4000), /truncated\.wav.*cut off/],
    ['liar.wav', changed(54, 0xf0, 0xff, 0xff, 0x0f), /liar\.wav.*cut off/],
    ['chunk.wav', changed(16, 0xff, 0xff, 0xff, 0x7f), /chunk\.wav.*lies about its size/],
    ['nothing.wav', new Uint8Array(0), /nothing\.wav.*empty/],
    [
      'letter.wav',
      new TextEncoder().encode('Dear Sir, this is no sound. '.repeat(400)),
      /letter\.wav.*not a WAV file/,
    ],
    ['none.wav', changed(22, 0, 0), /none\.wav.*0 channels/],
  ])('in %s is refused by name and reason, and leaves nothing behind', async (name, file, reason) => {
    const before = await counts();
    const answer = await send(file, name);
    expect(answer.status).toBe(422);
    // What is cut off could come in as far as it goes.
    expect(answer.body.error.code).toBe(/cut off/.test(reason.source) ? 'cut' : 'audio');
    expect(answer.body.error.message).toMatch(reason);
    expect(await counts()).toEqual(before);
  });
  it('whose upload breaks off leaves nothing behind', async () => {
    const before = await counts();
    const stop = new AbortController();
    const body = new ReadableStream({
      start(c) {
        c.enqueue(toneFile(600_000).subarray(0, 1_500_000));
        setTimeout(() => stop.abort(), 300);
      },
    });
    await expect(
      fetch(`${server.base}/api/stems?name=broken.wav&rate=48000`, {
        method: 'POST',
        body,
        signal: stop.signal,
        duplex: 'half',
      } as RequestInit),
    ).rejects.toThrow();
    await new Promise((r) => setTimeout(r, 500));
    expect(await counts()).toEqual(before);
  });
});

describe('surface profiles', () => {
  it('begin with the simulated desk, and keep what is added', async () => {
    const { body } = await server.ask('GET', '/surface-profiles');
    expect(body.profiles[0]).toMatchObject({ simulated: true, width: 8 });
    const mine = { ...body.profiles[0], id: 'mine', name: 'Mine', simulated: false };
    expect((await server.ask('PUT', '/surface-profiles/mine', mine)).status).toBe(200);
    expect(
      (await server.ask('GET', '/surface-profiles')).body.profiles.map((p: { id: string }) => p.id),
    ).toContain('mine');
    expect((await server.ask('PUT', '/surface-profiles/mine', { ...mine, width: 0 })).status).toBe(422);
  });
});
