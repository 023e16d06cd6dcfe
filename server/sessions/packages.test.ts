import { createWriteStream, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import yazl from 'yazl';
import { PART_BYTES } from '../audio/stemReader';
import { floatWavHeader } from '../../core/formats/audio/wav';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';

let server: TestServer;
const folder = mkdtempSync(join(tmpdir(), 'zonula-import-test-'));
beforeAll(async () => {
  server = await startServer();
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

async function zipOf(name: string, entries: Record<string, string | Uint8Array>): Promise<Uint8Array> {
  const file = join(folder, name);
  const zip = new yazl.ZipFile();
  for (const [path, content] of Object.entries(entries)) zip.addBuffer(Buffer.from(content as string), path);
  zip.end();
  await finished(zip.outputStream.pipe(createWriteStream(file)));
  return readFileSync(file);
}
const head = { format: 'zonula-session', version: 1, name: 'Brought', sampleRate: 48000 };
const main = { id: 'main', kind: 'output', name: 'Main' };
const source = { id: 'a', kind: 'source', name: 'A', out: { to: 'main' } };
const bring = (body: Uint8Array) => server.ask('POST', '/sessions/import', body);

describe('a package that is brought into the server', () => {
  it('may leave out what has a default', async () => {
    const strips = [{ ...source, stem: 'stems/a.wav' }, main];
    const made = await bring(
      await zipOf('short.zonula', {
        'session.json': JSON.stringify({ ...head, strips }),
        'stems/a.wav': toneFile(2000),
      }),
    );
    expect([made.status, made.body.name]).toEqual([201, 'Brought']);
    const { document } = (await server.ask('GET', `/sessions/${made.body.id}`)).body;
    expect(document.strips[0]).toMatchObject({ faderDb: 0, stem: expect.stringMatching(/^sha256:/) });
    const { stems } = (await server.ask('POST', `/sessions/${made.body.id}/open`)).body;
    expect(stems[document.strips[0].stem].frames).toBe(2000);
  });
  it('is read beside the server, however large its document is, and several wait for each other', async () => {
    const lane = Array.from({ length: 90_000 }, (_, n) => [n / 100, -3.123456]);
    const strips = [
      ...Array.from({ length: 4 }, (_, n) => ({ ...source, id: `s${n}`, lanes: { fader: lane } })),
      main,
    ];
    const file = await zipOf('large.zonula', { 'session.json': JSON.stringify({ ...head, strips }) });
    let over = false;
    const bringing = Promise.all(Array.from({ length: 3 }, () => bring(file))).finally(() => (over = true));
    let slowest = 0;
    while (!over) {
      const asked = performance.now();
      await server.ask('GET', '/health');
      slowest = Math.max(slowest, performance.now() - asked);
      await new Promise((r) => setTimeout(r, 5));
    }
    expect((await bringing).map((a) => a.status)).toEqual([201, 201, 201]);
    expect(slowest).toBeLessThan(2500);
  });
  it('may hold a stem that is silent for nearly all of half an hour', async () => {
    const frames = 1800 * 48000;
    const wav = new Uint8Array(58 + frames * 4);
    wav.set(floatWavHeader(1, 48000, frames));
    wav.set(toneFile(48000).subarray(58), 58 + 40_000 * 4096);
    const made = await bring(
      await zipOf('sparse.zonula', {
        'session.json': JSON.stringify({ ...head, strips: [{ ...source, stem: 'stems/a.wav' }, main] }),
        'stems/a.wav': wav,
      }),
    );
    expect(made.status).toBe(201);
    const [[{ n }]] = (await server.sequelize.query(
      'SELECT count(*)::int AS n FROM stem_chunks c JOIN stems s ON s.id = c.stem_id WHERE s.frames = ' +
        frames,
    )) as unknown as [[{ n: number }]];
    // No more than what sounds takes: a second of floats.
    expect(n).toBeLessThan((48000 * 4) / PART_BYTES + 2);
  });
  it.each<[string, () => Promise<Uint8Array>, number, RegExp]>([
    ['nothing', async () => new Uint8Array(0), 422, /empty/],
    ['no package', async () => new TextEncoder().encode('Dear Sir,'), 422, /no ZIP/],
    [
      'very many strips',
      () =>
        zipOf('many.zonula', {
          'session.json': JSON.stringify({ ...head, strips: Array(900_000).fill({}) }),
        }),
      413,
      /900000 strips: 1000 are the most/,
    ],
    [
      'a stem that is none',
      () =>
        zipOf('nosound.zonula', {
          'session.json': JSON.stringify({ ...head, strips: [{ ...source, stem: 'stems/a.wav' }, main] }),
          'stems/a.wav': 'no sound',
        }),
      422,
      /stems\/a\.wav.*not a WAV file/,
    ],
    [
      'a wrong field',
      () => zipOf('field.zonula', { 'session.json': JSON.stringify({ ...head, strips: [main], mood: 1 }) }),
      422,
      /mood/,
    ],
  ])('of %s is refused by its reason, and leaves nothing', async (_what, make, status, reason) => {
    const before = (await server.ask('GET', '/sessions')).body.sessions.length;
    const refused = await bring(await make());
    expect([refused.status, refused.body.error.message]).toEqual([status, expect.stringMatching(reason)]);
    // Where on the server it lay is nobody's business.
    expect(refused.body.error.message).not.toContain('/tmp');
    expect((await server.ask('GET', '/sessions')).body.sessions).toHaveLength(before);
  });
});
