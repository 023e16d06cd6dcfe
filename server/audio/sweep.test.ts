import { randomUUID } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newSession, newStrip } from '../../core/session/defaults';
import { StemChunkRow, StemRow } from '../database/models';
import { compactHistories } from '../sessions/compact';
import { importPackage } from '../sessions/packages';
import { referTo } from '../sessions/references';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';
import { giveBackRoom, sweepStems } from './sweep';

let server: TestServer;
const folder = mkdtempSync(join(tmpdir(), 'zonula-sweep-test-'));
beforeAll(async () => {
  server = await startServer();
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

const store = async (hertz: number, frames = 3000) =>
  (await server.ask('POST', `/stems?name=a.wav&rate=48000`, toneFile(frames, 1, 48000, hertz))).body
    .stem as string;
const age = (hours: number) =>
  server.sequelize.query(
    `UPDATE stems SET used_at = used_at - interval '${hours} hours', created_at = created_at - interval '${hours} hours'`,
  );
const isThere = async (stem: string) => (await StemRow.count({ where: { sha256: stem.slice(7) } })) === 1;
const make = async () => (await server.ask('POST', '/sessions', { name: 'Sweep' })).body.id as string;
const send = (id: string, revision: number, change: object) =>
  server.ask('POST', `/sessions/${id}/commits`, { revision, changeId: randomUUID(), label: 'x', ...change });
const add = (stem: string) => ({
  commands: [
    {
      type: 'strip.add',
      at: 0,
      strip: newStrip({ id: 'a', kind: 'source', name: 'A', stem, out: { to: 'main', on: true } }),
    },
  ],
});
/** A package whose stems are these tones. */
function pack(name: string, tones: readonly number[]): string {
  const at = join(folder, name);
  mkdirSync(join(at, 'stems'), { recursive: true });
  const base = newSession(name);
  writeFileSync(
    join(at, 'session.json'),
    JSON.stringify({
      ...base,
      strips: [
        ...tones.map((t) =>
          newStrip({
            id: `s${t}`,
            kind: 'source',
            name: 'S',
            stem: `stems/${t}.wav`,
            out: { to: 'main', on: true },
          }),
        ),
        ...base.strips,
      ],
    }),
  );
  for (const t of tones) writeFileSync(join(at, `stems/${t}.wav`), toneFile(3000, 1, 48000, t));
  return at;
}

describe('sweeping', () => {
  it('removes a stem that nothing names, and keeps what a session names, or its history', async () => {
    const [named, removed, never] = [await store(601), await store(602), await store(603)];
    const id = await make();
    await send(id, 0, add(named));
    await send(id, 1, { commands: [{ type: 'strip.remove', id: 'a' }] });
    await send(id, 2, add(removed));
    await send(id, 3, { kind: 'undo' });
    await age(48);
    expect(await sweepStems(server.sequelize)).toBe(1);
    expect(await Promise.all([named, removed, never].map(isThere))).toEqual([true, true, false]);
    // What names them can be brought back, with its audio.
    expect((await send(id, 4, { kind: 'redo' })).status).toBe(200);
    await server.ask('DELETE', `/sessions/${id}`);
    expect(await Promise.all([named, removed].map(isThere))).toEqual([false, false]);
    expect(await StemChunkRow.count()).toBe(0);
  });
  it('leaves what is on its way: many files come in before their strips are made', async () => {
    const stem = await store(611);
    await age(20);
    await sweepStems(server.sequelize);
    expect(await isThere(stem)).toBe(true);
    await age(20);
    // The same file again is as good as new.
    expect(await store(611)).toBe(stem);
    await sweepStems(server.sequelize);
    expect(await isThere(stem)).toBe(true);
  });
  it('and importing hold each other off: no session is made whose stems are not there', async () => {
    const tones = Array.from({ length: 12 }, (_, n) => 700 + n);
    for (let round = 0; round < 3; round++) {
      for (const t of tones) await store(t);
      await age(48);
      let over = false;
      const importing = importPackage(server.sequelize, pack(`round${round}`, tones)).finally(
        () => (over = true),
      );
      // Sessions are deleted all the while, each of which sweeps.
      while (!over) {
        const other = await make();
        await send(other, 0, add(await store(799)));
        await server.ask('DELETE', `/sessions/${other}`);
        await sweepStems(server.sequelize);
      }
      const { id } = await importing;
      const { document } = (await server.ask('GET', `/sessions/${id}`)).body;
      for (const s of document.strips)
        if (s.stem) {
          expect(await isThere(s.stem)).toBe(true);
          expect((await fetch(`${server.base}/api/stems/${s.stem}/pcm?start=0&frames=9`)).status).toBe(200);
        }
      await server.ask('DELETE', `/sessions/${id}`);
      await age(48);
      await sweepStems(server.sequelize);
    }
  });
  // PostgreSQL 15, 13.3.2: FOR KEY SHARE and FOR UPDATE exclude each other.
  it('waits for who is about to name a stem, and an edit that comes too late is refused', async () => {
    const [held, lost] = [await store(621), await store(622)];
    await age(48);
    const id = await make();
    await server.sequelize.transaction(async (transaction) => {
      await referTo(server.sequelize, id, [held], transaction);
      await sweepStems(server.sequelize);
      expect(await Promise.all([held, lost].map(isThere))).toEqual([true, false]);
    });
    await sweepStems(server.sequelize);
    expect(await isThere(held)).toBe(true);
    const late = await send(id, 0, add(lost));
    expect([late.status, late.body.error.message]).toEqual([
      422,
      expect.stringContaining('not in the library'),
    ]);
  });
  it('takes what only changes named that were let go', async () => {
    const stem = await store(631);
    const id = await make();
    await send(id, 0, add(stem));
    await send(id, 1, { commands: [{ type: 'strip.remove', id: 'a' }] });
    for (let n = 2; n < 40; n++)
      await send(id, n, { commands: [{ type: 'strip.set', id: 'main', patch: { faderDb: -n } }] });
    await age(48);
    await compactHistories(server.sequelize, 10);
    await sweepStems(server.sequelize);
    expect(await isThere(stem)).toBe(false);
  });
});

it('room comes back to the disk, and what is alive stays as it is', async () => {
  const id = await make();
  const kept = await store(641, 400_000);
  await send(id, 0, add(kept));
  const before = Buffer.from(
    await (await fetch(`${server.base}/api/stems/${kept}/pcm?start=0&frames=400000`)).arrayBuffer(),
  );
  const size = async () =>
    Number(
      (
        (await server.sequelize.query(`SELECT pg_total_relation_size('stem_chunks') AS n`)) as unknown as [
          [{ n: string }],
        ]
      )[0][0].n,
    );
  // Hundreds of megabytes that were stored and removed; nobody else tidies up meanwhile.
  await server.sequelize.query(
    'ALTER TABLE stem_chunks SET (autovacuum_enabled = false, toast.autovacuum_enabled = false)',
  );
  await server.sequelize.query(
    `INSERT INTO stem_chunks (stem_id, index, data)
     SELECT (SELECT id FROM stems WHERE sha256 = $1), 1000 + n, decode(repeat(md5(n::text), 65536), 'hex')
     FROM generate_series(1, 350) n`,
    { bind: [kept.slice(7)] },
  );
  await server.sequelize.query('DELETE FROM stem_chunks WHERE index > 999');
  const taken = await size();
  expect(taken).toBeGreaterThan(300 * 2 ** 20);
  // What a reader who began before still sees is left for the next round.
  let back = 0;
  await expect
    .poll(async () => (back += await giveBackRoom(server.sequelize, true)), { timeout: 30_000 })
    .toBeGreaterThan(300 * 2 ** 20);
  expect(await size()).toBeLessThan(10 * 2 ** 20);
  const after = Buffer.from(
    await (await fetch(`${server.base}/api/stems/${kept}/pcm?start=0&frames=400000`)).arrayBuffer(),
  );
  expect(after.equals(before)).toBe(true);
});
