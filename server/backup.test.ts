import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes, Sequelize } from 'sequelize';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { backup, restore } from './backup';
import { examine, type Problem } from './doctor';
import { freshDatabase, startServer, type TestServer } from './testing/testServer';
import { toneFile } from './testing/wav';

let server: TestServer;
const folder = mkdtempSync(join(tmpdir(), 'zonula-backup-test-'));
const file = join(folder, 'all.backup');
beforeAll(async () => {
  server = await startServer();
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

const store = async (hertz: number, frames = 300_000) =>
  (await server.ask('POST', `/stems?name=a.wav&rate=48000`, toneFile(frames, 1, 48000, hertz))).body
    .stem as string;
const make = async (name: string) => (await server.ask('POST', '/sessions', { name })).body.id as string;
const send = (id: string, revision: number, change: object) =>
  server.ask('POST', `/sessions/${id}/commits`, { revision, changeId: randomUUID(), label: 'x', ...change });
const level = (n: number) => ({
  commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -n || 0 } }],
});
async function session(name: string, hertz: number): Promise<{ id: string; stem: string }> {
  const stem = await store(hertz);
  const id = await make(name);
  const strip = newStrip({ id: 'a', kind: 'source', name: 'A', stem, out: { to: 'main', on: true } });
  await send(id, 0, { commands: [{ type: 'strip.add', at: 0, strip }] });
  for (let n = 1; n < 20; n++) await send(id, n, level(n));
  for (let n = 20; n < 26; n++) await send(id, n, { kind: 'undo' });
  await send(id, 26, { kind: 'redo' });
  return { id, stem };
}

/** Every row of every table, as text, sorted: what a database holds. */
async function everything(sequelize: Sequelize): Promise<Record<string, readonly string[]>> {
  const tables = (await sequelize.query(
    `SELECT table_name AS t FROM information_schema.tables WHERE table_schema = 'public' ORDER BY 1`,
    { type: QueryTypes.SELECT },
  )) as { t: string }[];
  const all: Record<string, readonly string[]> = {};
  for (const { t } of tables)
    all[t] = (
      (await sequelize.query(`SELECT md5(x::text) AS row FROM ${t} x ORDER BY 1`, {
        type: QueryTypes.SELECT,
      })) as { row: string }[]
    ).map((r) => r.row);
  return all;
}

describe('a backup', () => {
  it('holds every session, every change and every sample, and is put back into an empty database', async () => {
    for (const [name, hertz] of [
      ['One', 401],
      ['Two 🎻', 402],
    ] as const)
      await session(name, hertz);
    await server.ask('POST', '/presets', {
      format: 'zonula-preset',
      version: 1,
      kind: 'processor',
      name: 'Kept',
      insert: { type: 'gain' },
    });
    expect(await backup(server.url, file)).toBeGreaterThan(10_000);
    const before = await everything(server.sequelize);
    expect(before.session_changes!.length).toBeGreaterThan(50);
    expect(before.stem_chunks!.length).toBeGreaterThan(2);
    const other = await freshDatabase();
    const sequelize = new Sequelize(other.url, { dialect: 'postgres', logging: false });
    await restore(other.url, file);
    expect(await everything(sequelize)).toEqual(before);
    await sequelize.close();
    await other.drop();
  });

  it('is of one moment while edits go on, and what was there later goes when it is put back', async () => {
    const { id } = await session('Busy', 403);
    const documents = new Map<number, string>();
    let revision = 27;
    let writing = true;
    const edits = (async () => {
      while (writing) {
        const { body } = await send(id, revision, level((revision % 50) + 1));
        revision = body.change.revision;
        documents.set(revision, JSON.stringify((await server.ask('GET', `/sessions/${id}`)).body.document));
      }
    })();
    await expect.poll(() => documents.size).toBeGreaterThan(3);
    await backup(server.url, file);
    writing = false;
    await edits;
    await make('Later');
    await restore(server.url, file);
    const back = (await server.ask('GET', `/sessions/${id}`)).body as { revision: number; document: Session };
    expect(back.revision).toBeLessThanOrEqual(revision);
    expect(JSON.stringify(back.document)).toBe(documents.get(back.revision));
    const { sessions } = (await server.ask('GET', '/sessions')).body;
    expect(sessions.map((s: { name: string }) => s.name)).not.toContain('Later');
    // A window that is open sends its next edit on what it knows, and is told to take the session anew.
    expect((await send(id, back.revision + 5, level(3))).status).toBe(409);
    expect((await send(id, back.revision, { kind: 'undo' })).status).toBe(200);
  });

  it.each<[string, () => void]>([
    ['cut off', () => truncateSync(file, Math.floor(readFileSync(file).length * 0.6))],
    ['no backup', () => writeFileSync(file, 'Dear Sir,')],
    ['not there', () => rmSync(file)],
  ])('that is %s changes nothing', async (_what, damage) => {
    await backup(server.url, file);
    const before = await everything(server.sequelize);
    damage();
    await expect(restore(server.url, file)).rejects.toThrow(
      /Nothing was changed|nothing was changed|no file/,
    );
    expect(await everything(server.sequelize)).toEqual(before);
  });
});

describe('the doctor', () => {
  const look = async (repair = false): Promise<Problem[]> => {
    const found: Problem[] = [];
    for await (const p of examine({ sequelize: server.sequelize, repair, disk: null })) found.push(p);
    return found;
  };
  const sql = (text: string, bind: unknown[] = []) => server.sequelize.query(text, { bind });

  it('finds nothing where all is well', async () => {
    await session('Well', 404);
    expect(await look()).toEqual([]);
  });
  it('finds a stem whose samples changed or are missing, and has it healed by its file', async () => {
    const { stem } = await session('Damaged', 405);
    const hash = stem.slice(7);
    for (const damage of [
      'UPDATE stem_chunks SET data = set_byte(data, 5000, (get_byte(data, 5000) + 1) % 256) WHERE index = 0 AND stem_id =',
      'DELETE FROM stem_chunks WHERE index = 1 AND stem_id =',
    ]) {
      await sql(`${damage} (SELECT id FROM stems WHERE sha256 = $1)`, [hash]);
      const [found, ...more] = await look();
      expect(more).toEqual([]);
      expect(found).toMatchObject({ problem: 'stem', where: [stem, 'Damaged'] });
      // It is not healed by being met again, as long as it was not marked.
      await store(405);
      expect(await look()).toHaveLength(1);
      await look(true);
      expect(await store(405)).toBe(stem);
      expect(await look()).toEqual([]);
      const pcm = await fetch(`${server.base}/api/stems/${stem}/pcm?start=262100&frames=100`);
      expect(Buffer.from(await pcm.arrayBuffer())).toEqual(
        Buffer.from(toneFile(300_000, 1, 48000, 405).subarray(58 + 262100 * 4, 58 + 262200 * 4)),
      );
    }
  });
  it('finds a session that names a stem which is not held, or not there', async () => {
    const { id, stem } = await session('Dangling', 406);
    await sql('DELETE FROM session_stems WHERE session_id = $1', [id]);
    expect((await look(true)).map((p) => p.what)).toEqual([
      '“Dangling” names the stem of A and does not hold it: it might be swept.',
    ]);
    expect(await look()).toEqual([]);
    await sql('DELETE FROM session_stems WHERE session_id = $1', [id]);
    await sql('DELETE FROM stems WHERE sha256 = $1', [stem.slice(7)]);
    expect(await look()).toMatchObject([{ problem: 'reference', where: [id, stem] }]);
    expect(await store(406)).toBe(stem);
    await look(true);
    expect(await look()).toEqual([]);
  });
  it('finds changes that do not replay, and lets them go without touching the session', async () => {
    for (const [n, damage] of [
      `UPDATE session_changes SET inverse = '[{"type":"strip.set","id":"main","patch":{"faderDb":-77}}]' WHERE revision = 12 AND session_id = $1`,
      `UPDATE session_changes SET commands = '[{"type":"strip.set","id":"ghost","patch":{"faderDb":-7}}]' WHERE revision = 12 AND session_id = $1`,
      `DELETE FROM session_changes WHERE revision = 12 AND session_id = $1`,
    ].entries()) {
      const { id } = await session(`History ${n}`, 407 + n);
      const { document } = (await server.ask('GET', `/sessions/${id}`)).body;
      await sql(damage, [id]);
      const found = await look();
      expect(found).toHaveLength(1);
      expect(found[0]).toMatchObject({ problem: 'history', where: [id, expect.stringMatching(/1[123]/)] });
      await look(true);
      expect(await look()).toEqual([]);
      const now = (await server.ask('GET', `/sessions/${id}/state`)).body;
      expect(now.document).toEqual(document);
      for (let { undo } = now, revision = now.revision; undo.length; revision++) {
        expect((await send(id, revision, { kind: 'undo' })).status).toBe(200);
        ({ undo } = (await server.ask('GET', `/sessions/${id}/state`)).body);
      }
    }
  });
  it('finds a document that breaks a rule', async () => {
    const id = await make('Broken');
    await sql(
      `UPDATE session_snapshots SET document = jsonb_set(document::jsonb, '{strips,0,faderDb}', '1e15')::text
       WHERE session_id = $1`,
      [id],
    );
    expect(await look()).toMatchObject([{ problem: 'document', where: [id] }]);
    await server.ask('DELETE', `/sessions/${id}`);
  });
  it('says when room runs out', async () => {
    const found: Problem[] = [];
    for await (const p of examine({ sequelize: server.sequelize, repair: false, disk: '/proc' }))
      found.push(p);
    // A file system that has no room at all.
    expect(found).toMatchObject([{ problem: 'room', what: expect.stringContaining('0.0 GiB are free') }]);
  });
});
